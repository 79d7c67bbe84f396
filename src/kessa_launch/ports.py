"""Free ports on loopback."""

import socket


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
