"""The audit chain: what holds, and every way of breaking it."""

import json
import unittest
from dataclasses import asdict, replace

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.errors import BadEvent
from kessa_core.records import Entry, check, read, seal


def chain(length: int) -> list[Entry]:
    made, before = [], ""
    for number in range(1, length + 1):
        entry = Entry(
            "beck", number, f"2026-03-0{number % 9 + 1}", 1, "a", f"x:{number}", {}, before
        )
        entry = replace(entry, hash=seal(entry))
        made.append(entry)
        before = entry.hash
    return made


def said(entries: list[Entry], head: tuple[int, str] | None = None) -> list[str]:
    return [f"{one.number}: {one.what}" for one in check(entries, head)]


class Chain(unittest.TestCase):
    def test_a_whole_chain(self) -> None:
        """Also an empty one."""
        whole = chain(5)
        self.assertEqual(said(whole, (5, whole[-1].hash)), [])
        self.assertEqual(said([], (0, "")), [])

    @given(st.integers(1, 8), st.sampled_from(["at", "person", "act", "about", "data", "chain"]))
    def test_any_changed_field_is_found(self, number: int, field: str) -> None:
        """Whichever entry, whichever field."""
        entries = chain(8)
        other = {"data": {"x": 1}, "person": 2}.get(field, "other")
        entries[number - 1] = replace(entries[number - 1], **{field: other})
        self.assertIn(f"{number}: was changed", "\n".join(said(entries)))

    def test_missing_added_and_moved_entries_are_found(self) -> None:
        """In the middle, at the end, doubled, exchanged."""
        whole = chain(5)
        head = (5, whole[-1].hash)
        for entries, says in (
            ([*whole[:1], *whole[3:]], "4: numbers 2 to 3 are missing"),
            (whole[:4], "5: number 5 is missing"),
            ([*whole, whole[4]], "5: stands after number 5"),
            ([whole[0], whole[2], whole[1], *whole[3:]], "3: number 2 is missing"),
        ):
            self.assertIn(says, said(entries, head))

    def test_a_chain_made_anew_does_not_fit_its_head(self) -> None:
        """Every seal fits, and still it is not the chain that the head knows."""
        other = chain(3)
        forged = [replace(e, person=7, before="", hash="") for e in other]
        before = ""
        for index, entry in enumerate(forged):
            entry = replace(entry, before=before)
            forged[index] = replace(entry, hash=seal(entry))
            before = forged[index].hash
        self.assertEqual(said(forged), [])
        self.assertIn("is not what the head of the chain says", said(forged, (3, other[2].hash))[0])

    def test_a_file_is_read_line_by_line(self) -> None:
        """Blank lines are nothing; anything else that is no entry is named by its line."""
        lines = [json.dumps(asdict(entry)) for entry in chain(2)]
        self.assertEqual(list(read([*lines, "\n"])), chain(2))
        for bad in ("{", "[]", '{"chain": 1}'):
            with self.assertRaisesRegex(BadEvent, "Line 3"):
                list(read([*lines, bad]))
