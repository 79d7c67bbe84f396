"""Tap to painted count in the browser: p95, with the server and without it; goal one frame."""

from django.test import Client
from django.utils import timezone
from playwright.sync_api import sync_playwright
from tools.serving import serving, spread

from kessa.places.models import Point
from kessa.platform.models import Person, Programme
from kessa.runs.services import open_run
from kessa.visits import services as visits

# From the tap's own time stamp to the count in the page, and to the frame that shows it.
MEASURE = """async (taps) => {
  const add = document.querySelector('[data-act="drop"]');
  const back = document.querySelector('[data-spot="count"] [data-act="take-back"]');
  const counted = [], painted = [];
  for (let i = 0; i < taps; i++) {
    const button = i % 20 < 10 ? add : back;
    await new Promise(requestAnimationFrame);
    const before = document.getElementById('n').textContent, begun = performance.now();
    button.click();
    if (document.getElementById('n').textContent === before) throw new Error('not counted');
    counted.push(performance.now() - begun);
    await new Promise(done => requestAnimationFrame(() => {
      const after = new MessageChannel();
      after.port1.onmessage = done;
      after.port2.postMessage(0);
    }));
    painted.push(performance.now() - begun);
    await new Promise(done => setTimeout(done, 30));
  }
  return [counted, painted];
}"""


def begin() -> tuple[str, str]:
    """A fresh run and the monitor's session."""
    person = Person.objects.get(username="monitor")
    programme = Programme.objects.get(slug="lowen-vale")
    point = Point.objects.of(programme).first()
    sample = visits.begin(programme, person, point, "chloride-drops-15ml")
    visits.take(sample, person, timezone.now(), "UTC")
    run = open_run(sample, person)
    client = Client()
    client.force_login(person)
    return str(run.pk), client.cookies["sessionid"].value


with serving() as address:
    run, session = begin()
    playwright = sync_playwright().start()
    chromium = playwright.chromium.launch(
        executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
    )
    context = chromium.new_context(viewport={"width": 390, "height": 844})
    context.add_cookies([{"name": "sessionid", "value": session, "url": address}])
    page = context.new_page()
    page.goto(f"{address}/p/lowen-vale/bench/{run}/")
    page.wait_for_selector("#main[data-ready]")
    for key in ("1", "n", "n", "n", "1"):
        page.keyboard.press(key)
    for name, offline in (("with the server", False), ("without a network", True)):
        context.set_offline(offline)
        counted, painted = page.evaluate(MEASURE, 200)
        print(f"{name}: tap to count in the page: {spread(counted)}")
        print(f"{name}: tap to the frame painted: {spread(painted)}")
    chromium.close()
    playwright.stop()
