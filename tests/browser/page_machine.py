"""The page's machine without a page: its modules in Chromium, folding histories."""

import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Page, Route

from kessa_core.judging.context import PointContext
from kessa_core.sheets import compile_sheet
from kessa_core.sheets.words import WRONG
from tests.builders.histories import KNOWN, History

MODULES = Path(__file__).parents[2] / "src" / "kessa" / "pages" / "bench" / "static" / "bench"
STATE = (Path(__file__).parent / "machine_state.js").read_text("utf-8")
MACHINE = (
    "machine.js", "acts.js", "photo-acts.js", "determination.js", "order.js", "scale.js", "rows.js",
    "device.js",
)  # fmt: skip
"""What folds and looks figures up; the other modules draw it, keep it and send it."""
EACH = 6
"""Histories of each shipped method."""
ADDRESS = "https://kessa.invalid/"
"""No address of any machine: every request is answered here."""
IMPORT = """async ([address, names]) => {
  const parts = await Promise.all(names.map((one) => import(address + one)));
  window.bench = Object.assign({}, ...parts);
}"""


def page_with_machine(browser: Browser, changed: Mapping[str, str] | None = None) -> Page:
    """A page that has the modules as window.bench; *changed*: other texts for some of them."""
    texts = {name: (MODULES / name).read_text("utf-8") for name in MACHINE} | dict(changed or {})
    page = browser.new_page()

    def answer(route: Route) -> None:
        name = route.request.url.removeprefix(ADDRESS)
        kind = "text/javascript" if name in texts else "text/html"
        route.fulfill(body=texts.get(name, "<!doctype html>"), content_type=kind)

    page.route("**", answer)
    page.goto(ADDRESS)
    page.evaluate(IMPORT, [ADDRESS, list(MACHINE)])
    return page


def as_input(histories: Sequence[History]) -> str:
    """Histories as JSON for the page: each with its sheet, which depends on the lots in use."""
    sheets: dict[str, Any] = {}
    told = []
    for history in histories:
        key = f"{history.method.id} {len(history.lots.held)}"
        if key not in sheets:
            sheets[key] = compile_sheet(
                history.method, PointContext(lots=history.lots, known=KNOWN)
            )
        told.append({"method": key, "events": [event.as_json() for event in history.events]})
    return json.dumps({"sheets": sheets, "histories": told})


def folded_by_the_page(page: Page, given: str) -> list[dict[str, Any]]:
    """The whole state after each history; {"error"} where the machine failed."""
    return json.loads(page.evaluate(STATE, given))


SCALES = """({ scales, typed, refusals }) => {
  const { say, shown, rawOf, parse } = window.bench;
  const along = [...Array(41).keys()];
  const place = ({ low, high }, part) => Math.round(low + ((high - low) * part) / 40);
  const told = (scale, n) => {
    if (n > scale.high || n < scale.low) return [n, "", "", rawOf(scale, n)];
    const { figure, unit } = shown(scale, n);
    const display = scale.labels ? "" : `${figure} ${unit}`;
    return [n, say(scale, n), display, parse(scale, rawOf(scale, n)).n];
  };
  const outcome = ({ n, kind, error, keep, suspected }) => {
    if (!error) return [n, kind];
    return [refusals.includes(error) ? "refused" : error, Boolean(keep), suspected?.raw ?? ""];
  };
  const inside = (scale) => along.map((part) => place(scale, part));
  const places = (scale) => [scale.low - 1, ...inside(scale), scale.high + 1];
  return scales.map((scale, i) => [
    places(scale).map((n) => told(scale, n)),
    typed[i].flatMap((text) => [outcome(parse(scale, text)), outcome(parse(scale, text, true))]),
  ]);
}"""
REFUSALS = (*WRONG, "step")
"""Why a reading is refused: each has its words on the page."""


def said_by_the_page(
    page: Page, scales: Sequence[Mapping[str, Any]], typed: Sequence[Sequence[str]]
) -> list[Any]:
    """What said_by_the_core() says of the same scales and texts."""
    given = {"scales": list(scales), "typed": list(typed), "refusals": REFUSALS}
    return page.evaluate(SCALES, given)
