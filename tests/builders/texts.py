"""Every text that a person reads on a screen or in a method, with where it stands."""

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import yaml

ROOT = Path(__file__).parents[2] / "src"
SCREENS = "screens"
METHODS = "methods"
SHOWN = r"(?:aria-label|title|placeholder|alt|data-[\w-]+)"
NOT_SHOWN = re.compile(r'data-(?:act|spot|dial|axis|from|to|picture|key|slot|how|theme\S*)="[^"]*"')
IN_METHODS = ("title", "lead", "caution", "say", "kit", "short", "do", "what", "does", "label")
PYTHON = (
    "kessa",
    "kessa_core/sheets",
    "kessa_core/judging",
    "kessa_core/runs",
    "kessa_core/readings",
    "kessa_core/influences",
    "kessa_core/quality",
    "kessa_core/methods/suitability.py",
    "kessa_core/methods/local_settings.py",
    "kessa_core/trends",
)
LEFT_OUT = ("migrations", "management", "settings.py", "checks.py", "sql", "csv_file", "verify.py")

Text = tuple[str, str, str]
"""Scope, where, the words."""


@cache
def every_text() -> tuple[Text, ...]:
    """Templates, sentences in Python, and the documents of methods."""
    return (*of_templates(), *of_python(), *of_methods())


def of_templates() -> Iterator[Text]:
    """What stands between tags, and in attributes that are shown or read aloud."""
    for path in sorted((ROOT / "kessa").rglob("*.html")):
        html = path.read_text("utf-8")
        html = re.sub(r"\{% comment %\}.*?\{% endcomment %\}", " ", html, flags=re.S)
        html = re.sub(r"\{%.*?%\}", " ", NOT_SHOWN.sub(" ", html))
        html = re.sub(r"\{\{.*?\}\}", "…", html)
        for shown in re.findall(rf'{SHOWN}="([^"]*)"', html):
            yield SCREENS, path.name, " ".join(shown.split())
        for words in re.split(r"<[^>]*>", html):
            if words.strip():
                yield SCREENS, path.name, " ".join(words.split())


def of_python() -> Iterator[Text]:
    """Sentences and labels: texts with a capital and a space that are no docstring."""
    for folder in PYTHON:
        at = ROOT / folder
        for path in sorted(at.rglob("*.py")) or [at]:
            if any(part in str(path) for part in LEFT_OUT):
                continue
            for words in sentences(ast.parse(path.read_text("utf-8"))):
                yield SCREENS, path.name, words


def sentences(tree: ast.Module) -> Iterator[str]:
    """The texts of a module that read like something for people."""
    doc = {
        node.value
        for node in ast.walk(tree)
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and node not in doc:
            words = " ".join(node.value.split())
            if re.search(r"[A-Za-z] [a-z]", words) and not re.search(r"[{}_=<>]{2}|SELECT ", words):
                yield words


def of_methods() -> Iterator[Text]:
    """Titles, leads, cautions and answers of every shipped method."""
    for path in sorted((ROOT / "kessa_core" / "methods" / "shipped").glob("*.yaml")):
        document = yaml.safe_load(path.read_text("utf-8"))
        document.pop("changes", None)
        for words in _within(document):
            yield METHODS, path.name, words


def _within(held: object) -> Iterator[str]:
    if isinstance(held, dict):
        for name, value in held.items():
            if name in IN_METHODS and isinstance(value, str):
                yield " ".join(value.split())
            else:
                yield from _within(value)
    elif isinstance(held, list):
        for value in held:
            yield from _within(value)
