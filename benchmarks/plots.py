"""The two plots of the proof as SVG: coverage by stratum, and the share called within by limit."""

from collections.abc import Sequence

INK, SOFT, PLUM, BAND = "#1b2330", "#535c6a", "#6a2a5a", "#ddeeeb"
Bar = tuple[str, str, float, str, int, float]
Curve = tuple[str, str, float, Sequence[float]]


def _svg(width: int, height: int, body: list[str], title: str) -> str:
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" '
        f'font-family="sans-serif" font-size="12" fill="{INK}"><title>{title}</title>'
        f'<rect width="{width}" height="{height}" fill="#fffefb"/>'
    )
    return head + "".join(body) + "</svg>\n"


def coverage_plot(bars: Sequence[Bar]) -> str:
    """A dot a stratum on a scale from 90 to 100 %, with the band of 93 to 97 %."""
    left, top, row = 330, 40, 17

    def x(share: float) -> float:
        return left + (share - 90) * 42

    height = top + row * len(bars) + 30
    body = [
        f'<rect x="{x(93)}" y="{top - 8}" width="{x(97) - x(93)}" height="{height - top - 14}" fill="{BAND}"/>'
    ]
    for share in range(90, 101, 1):
        body.append(
            f'<text x="{x(share)}" y="{top - 14}" text-anchor="middle" fill="{SOFT}">{share} %</text>'
        )
    for number, (method, simulator, slip, stratum, _, share) in enumerate(bars):
        y = top + row * number + 8
        name = f"{method}, {simulator}, slips {100 * slip:g} %: {stratum}"
        body.append(
            f'<text x="{left - 10}" y="{y + 4}" text-anchor="end" font-size="11">{name}</text>'
        )
        body.append(f'<circle cx="{x(max(share, 90)):.1f}" cy="{y}" r="4" fill="{PLUM}"/>')
    return _svg(780, height, body, "How often the interval holds the truth")


def limits_plot(curves: Sequence[Curve]) -> str:
    """Percent called within against the limit, for truths at 1.00, 1.03 and 1.10 times it."""
    panels = sorted({(method, simulator) for method, simulator, _, _ in curves})
    width, panel, left, gap = 780, 170, 60, 34
    body: list[str] = []
    for index, (method, simulator) in enumerate(panels):
        base = 30 + index * (panel + gap) + panel
        own = [(limit, shares) for m, s, limit, shares in curves if (m, s) == (method, simulator)]
        most = max(limit for limit, _ in own)

        def x(limit: float, most: float = most) -> float:
            return left + limit / most * (width - left - 30)

        def y(share: float, base: float = base) -> float:
            return base - share / 8 * panel

        body.append(
            f'<text x="{left}" y="{base - panel - 8}" font-weight="bold">{method}, {simulator}</text>'
        )
        body.append(
            f'<line x1="{left}" x2="{width - 30}" y1="{y(5)}" y2="{y(5)}" stroke="#b2350f" stroke-dasharray="5 4"/>'
        )
        for share in (0, 2.5, 5, 7.5):
            body.append(
                f'<text x="{left - 8}" y="{y(share) + 4}" text-anchor="end" fill="{SOFT}">{share:g} %</text>'
            )
        for limit, shares in own:
            for share, (size, fill) in zip(shares, ((4, PLUM), (3, "none"), (2, INK)), strict=True):
                body.append(
                    f'<circle cx="{x(limit):.1f}" cy="{y(share):.1f}" r="{size}" fill="{fill}" stroke="{PLUM}"/>'
                )
        body.append(f'<line x1="{left}" x2="{width - 30}" y1="{base}" y2="{base}" stroke="{INK}"/>')
    return _svg(width, 30 + len(panels) * (panel + gap), body, "Share called within, by limit")
