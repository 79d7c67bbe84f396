"""What must come from Debian's packages, and how it gets there."""

import os
import shutil
import subprocess

from kessa_launch.errors import LauncherError

PATIENT = ("-o", "DPkg::Lock::Timeout=300")


def install(*packages: str, why: str) -> None:
    """Install *packages*, or say the one line that somebody who may must run.

    Raises Trouble when this user may not install, or when the installation fails.
    """
    line = "apt-get install -y " + " ".join(packages)
    if shutil.which("apt-get") is None:
        raise LauncherError(
            f"{why}. This is not a Debian machine; install {', '.join(packages)} first."
        )
    if os.geteuid() == 0:
        become: tuple[str, ...] = ()
    elif shutil.which("sudo") and _quiet("sudo", "-n", "true"):
        become = ("sudo", "-n")
    else:
        raise LauncherError(f"{why}. Run this once, then start again: sudo {line}")
    print(f"Installing {', '.join(packages)} from Debian's packages ...", flush=True)
    quietly = (*become, "env", "DEBIAN_FRONTEND=noninteractive")
    _quiet(*quietly, "dpkg", "--configure", "-a")
    for arguments in (("update", "-q"), ("install", "-y", "-q", *packages)):
        done = subprocess.run(
            (*quietly, "apt-get", *PATIENT, *arguments),
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
        )
        if done.returncode and arguments[0] == "install":
            raise LauncherError(f"{line} failed:\n{(done.stdout + done.stderr)[-2000:]}")


def _quiet(*command: str) -> bool:
    done = subprocess.run(command, stdin=subprocess.DEVNULL, capture_output=True)
    return done.returncode == 0
