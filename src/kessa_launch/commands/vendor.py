"""./kessa vendor: fetch the shipped styles, scripts and fonts again (needs npm)."""

import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path

from kessa_launch.errors import LauncherError
from kessa_launch.state_paths import CLONE

VENDOR = CLONE / "src" / "kessa" / "ui" / "static" / "vendor"
BULMA, SASS = "bulma@1.0.4", "sass@1.108.2"
STYLES = CLONE / "src" / "kessa" / "ui" / "styles" / "bulma.scss"
TESTS = CLONE / "tests" / "browser" / "vendor"
FONT = "@fontsource-variable/atkinson-hyperlegible"
PACKAGES: dict[str, dict[str, Path]] = {
    BULMA: {"LICENSE": VENDOR / "LICENSE-bulma.txt"},
    "htmx.org@2.0.11": {
        "dist/htmx.min.js": VENDOR / "htmx.min.js",
        "LICENSE": VENDOR / "LICENSE-htmx.txt",
    },
    f"{FONT}-next@5.3.0": {
        "files/atkinson-hyperlegible-next-latin-wght-normal.woff2": VENDOR / "next-latin.woff2",
        "files/atkinson-hyperlegible-next-latin-ext-wght-normal.woff2": VENDOR
        / "next-latin-ext.woff2",
        "LICENSE": VENDOR / "LICENSE-fonts.txt",
    },
    f"{FONT}-mono@5.3.0": {
        "files/atkinson-hyperlegible-mono-latin-wght-normal.woff2": VENDOR / "mono-latin.woff2",
    },
    "axe-core@4.14.1": {
        "axe.min.js": TESTS / "axe.min.js",
        "LICENSE": TESTS / "LICENSE-axe.txt",
    },
}


def run(_arguments: list[str]) -> int:
    """Download each package at its pinned version and copy the files that Kessa ships."""
    if not shutil.which("npm"):
        raise LauncherError("npm is needed to fetch the files; Kessa itself runs without it.")
    for package, files in PACKAGES.items():
        with tempfile.TemporaryDirectory() as folder:
            packed = subprocess.run(
                ["npm", "pack", package, "--silent", "--pack-destination", folder],
                capture_output=True,
                text=True,
            )
            if packed.returncode:
                raise LauncherError(f"{package} could not be fetched: {packed.stderr.strip()}")
            with tarfile.open(next(Path(folder).glob("*.tgz"))) as archive:
                for name, target in files.items():
                    member = archive.extractfile(f"package/{name}")
                    if member is None:
                        raise LauncherError(f"{package} holds no {name}.")
                    target.write_bytes(member.read())
        print(f"{package}: {len(files)} files")
    _compile_bulma(VENDOR / "bulma.min.css")
    return 0


def _compile_bulma(target: Path) -> None:
    """The parts of Bulma that are used, in our colours, as one file."""
    with tempfile.TemporaryDirectory() as folder:
        fetched = subprocess.run(
            ["npm", "install", "--silent", "--no-audit", BULMA, SASS],
            cwd=folder,
            capture_output=True,
            text=True,
        )
        if fetched.returncode:
            raise LauncherError(f"{BULMA} and {SASS} could not be fetched: {fetched.stderr}")
        modules = Path(folder) / "node_modules"
        line = [str(modules / ".bin" / "sass"), "--quiet", "--style=compressed"]
        line += ["--no-source-map", f"--load-path={modules}", str(STYLES), str(target)]
        compiled = subprocess.run(line, capture_output=True, text=True)
        if compiled.returncode:
            raise LauncherError(f"{STYLES.name} does not compile: {compiled.stderr}")
    print(f"{target.name}: {target.stat().st_size // 1000} kB")
