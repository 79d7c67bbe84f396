"""One-time codes as a second step of signing in (RFC 6238, by django-otp)."""

from base64 import b32encode

import segno
from django.db import transaction
from django.utils.crypto import salted_hmac
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from kessa.platform.models import Person

SPARE_CODES = 8
TOTP, SPARE = "codes", "backup codes"


def is_on(person: Person) -> bool:
    """Whether signing in asks for a one-time code."""
    return bool(TOTPDevice.objects.filter(user=person, confirmed=True).exists())


def begin(person: Person) -> TOTPDevice:
    """The device that waits to be confirmed; the same until it is."""
    device: TOTPDevice
    device, _ = TOTPDevice.objects.get_or_create(user=person, name=TOTP, confirmed=False)
    return device


def secret_of(device: TOTPDevice) -> str:
    """The secret to type where no picture can be read, in groups of four."""
    plain = b32encode(device.bin_key).decode().rstrip("=")
    return " ".join(plain[i : i + 4] for i in range(0, len(plain), 4))


def picture_of(text: str) -> str:
    """A QR code as inline SVG in the page's own colours."""
    made = segno.make(text, micro=False)
    return str(made.svg_inline(scale=4, border=2, omitsize=True, svgclass="qr", lineclass=None))


@transaction.atomic
def confirm(person: Person, token: str) -> list[str] | None:
    """Turn one-time codes on when *token* is right; the spare codes, shown this once."""
    device = begin(person)
    if not device.verify_token(token):
        return None
    TOTPDevice.objects.filter(user=person, confirmed=True).delete()
    device.confirmed = True
    device.save()
    StaticDevice.objects.filter(user=person).delete()
    spare = StaticDevice.objects.create(user=person, name=SPARE)
    made = [StaticToken.random_token() for _ in range(SPARE_CODES)]
    for code in made:
        spare.token_set.create(token=_kept(code))
    return made


def _kept(code: str) -> str:
    """A spare code as it is stored: hashed with the secret key, so that the table tells none."""
    return salted_hmac("kessa.spare-code", code, algorithm="sha256").hexdigest()[:16]


def verify(person: Person, token: str) -> bool:
    """Whether a one-time code or a spare one is right; a spare one works once."""
    plain = token.strip().replace(" ", "").lower()
    if any(d.verify_token(plain) for d in TOTPDevice.objects.filter(user=person, confirmed=True)):
        return True
    spare = StaticDevice.objects.filter(user=person)
    return any(device.verify_token(_kept(plain)) for device in spare)


def forget_devices(person: Person) -> None:
    """Turn one-time codes off."""
    TOTPDevice.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()
