"""Free ports on loopback."""

import socket


def listening(preferred: int, tries: int = 50) -> socket.socket:
    """A socket that listens on the first free loopback port from *preferred* on: nobody can take
    the port between choosing it and serving on it. A child inherits it by its number."""
    for port in [*range(preferred, preferred + tries), 0]:
        held = socket.socket()
        held.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            held.bind(("127.0.0.1", port))
            held.listen(128)
        except OSError:
            held.close()
            continue
        held.set_inheritable(True)
        return held
    raise OSError("no free port on loopback")


def free(preferred: int, tries: int = 50) -> int:
    """The first free loopback port from *preferred* on, or any that the system offers."""
    for port in [*range(preferred, preferred + tries), 0]:
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            chosen: int = probe.getsockname()[1]
            return chosen
    raise OSError("no free port on loopback")
