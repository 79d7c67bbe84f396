"""Tests with a programme of their own."""

from django.test import TestCase

from tests.builders.people import Room


class RoomTest(TestCase):
    """One programme for the class; each test finds it as it was made."""

    room: Room

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.room = Room()
