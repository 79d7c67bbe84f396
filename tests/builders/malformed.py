"""Malformed method files: a key gone, doubled, misspelt, of another shape or size, cut short."""

from collections.abc import Iterator
from random import Random

from kessa_core.documents.load import InvalidDocument
from kessa_core.methods import load, shipped_ids
from kessa_core.methods.catalogue import shipped_text

ODD = (
    "[]",
    "{}",
    "5",
    "-1",
    ".nan",
    "null",
    '""',
    "[1, [2, [3]]]",
    '"\\0"',
    "{a: {b: c}}",
    "true",
    "99999999999999999999",
    "'" + "x" * 300 + "'",
    "<script>alert(1)</script>",
    "*alias",
)
WHOLE = (
    "",
    "\x00",
    "- a\n- b",
    "just words",
    "a: [",
    "format: kessa-method/9",
    "{" * 40,
    "a: &x [1]\nb: *x",
    "\ufeff\ufeff: :",
    "? ? ?",
    "a: b: c",
    "%TAG ! x",
    "!!python/object:os {}",
)


def malformed(count: int, seed: int = 14) -> Iterator[str]:
    """*count* texts that are refused, each for a reason of its own kind."""
    draw, made = Random(seed), 0
    texts = [shipped_text(key) for key in shipped_ids()]
    for text in WHOLE:
        made += 1
        yield text
    while made < count:
        text = changed(draw.choice(texts), draw)
        if refused(text):
            made += 1
            yield text


def changed(text: str, draw: Random) -> str:
    """A shipped file with one thing wrong."""
    lines = text.splitlines()
    keyed = [at for at, line in enumerate(lines) if ": " in line and not line.startswith("#")]
    at = draw.choice(keyed)
    key, _, _ = lines[at].partition(": ")
    kind = draw.randrange(6)
    if kind == 0:
        del lines[at]
    elif kind == 1:
        lines.insert(at, lines[at])
    elif kind == 2:
        lines[at] = lines[at].replace(":", "x:", 1)
    elif kind == 3:
        lines[at] = f"{key}: {draw.choice(ODD)}"
    elif kind == 4:
        lines[at] = f"   {lines[at]}"
    else:
        return text[: draw.randrange(50, len(text) - 50)]
    return "\n".join(lines)


def refused(text: str) -> bool:
    """Whether the text is no method."""
    try:
        load(text)
    except InvalidDocument:
        return True
    return False
