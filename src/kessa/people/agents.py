"""What kind of device a request comes from, in a word or two: enough to tell two apart."""

from django.http import HttpRequest

SYSTEMS = (
    ("iPhone", "iPhone"),
    ("iPad", "iPad"),
    ("Android", "Android"),
    ("Windows", "Windows"),
    ("Mac OS X", "Mac"),
    ("CrOS", "Chromebook"),
    ("Linux", "Linux"),
)
BROWSERS = (("Firefox/", "Firefox"), ("Edg/", "Edge"), ("Chrome/", "Chrome"), ("Safari/", "Safari"))


def device_of(request: HttpRequest) -> str:
    """ "Android, Chrome", or "unknown device"."""
    agent = request.headers.get("User-Agent", "")
    system = next((words for part, words in SYSTEMS if part in agent), "")
    browser = next((words for part, words in BROWSERS if part in agent), "")
    return ", ".join(part for part in (system, browser) if part) or "unknown device"
