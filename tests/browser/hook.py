"""Opens the bench page to the tests: what its script holds, and acts without a hand."""

from pathlib import Path

HOOK = Path(__file__).parent / "bench_hook.js"


def open_bench(static_root: Path) -> None:
    """Add the hook to the collected script of the bench page, under its plain and hashed name."""
    folder = static_root / "bench"
    for path in folder.glob("page*.js"):
        path.write_text(path.read_text("utf-8") + HOOK.read_text("utf-8"), "utf-8")
    for compressed in (*folder.glob("page*.js.gz"), *folder.glob("page*.js.br")):
        compressed.unlink()
