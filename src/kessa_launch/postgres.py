"""A PostgreSQL server of our own on loopback, from Debian's packages.

Debian's own cluster is left alone. As root everything that touches the data runs as Debian's
user *postgres*, in the directory "/", with no path inside the clone.
"""

import os
import pwd
import shutil
import subprocess
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

from kessa_launch import debian, ports
from kessa_launch.errors import LauncherError
from kessa_launch.state_paths import StatePaths

BINARIES = Path("/usr/lib/postgresql")
SERVER_USER = "postgres"
DURABLE: tuple[str, ...] = ()
START_TRIES = 3
TUNED = ("jit=off", "random_page_cost=1.1", "work_mem=16MB", "max_wal_size=4GB")
"""Away from the server's defaults: compiling a statement took up to 40 times as long as running it,
and reading in order is no faster than at random on the disks of today (docs/SERVE.md)."""
FAST_AND_FORGETFUL = ("fsync=off", "synchronous_commit=off", "full_page_writes=off")


@dataclass(frozen=True)
class Server:
    """A running server: where it listens, who owns the tables, and as whom the application signs
    in."""

    cluster: "Cluster"
    port: int

    def variables(self) -> dict[str, str]:
        """What the application's settings read."""
        return {
            "KESSA_DB_HOST": "127.0.0.1",
            "KESSA_DB_PORT": str(self.port),
            "KESSA_DB_NAME": "kessa",
            "KESSA_DB_USER": "kessa",
            "KESSA_DB_PASSWORD": self.cluster.where.secrets()["database"],
            "KESSA_DB_APP_USER": "kessa_app",
            "KESSA_DB_APP_PASSWORD": self.cluster.where.secrets()["application"],
        }


@dataclass(frozen=True)
class Cluster:
    """One database folder; *name* tells the demo's from the tests'."""

    where: StatePaths
    name: str
    settings: tuple[str, ...] = DURABLE

    @property
    def folder(self) -> Path:
        return self.where.data / self.name

    def start(self) -> Server:
        """Start the server, or use the one that still runs on this folder.

        Raises Trouble when the data are of a version whose server is not installed.
        """
        binaries = self._binaries()
        if not self._exists():
            self._create(binaries)
        port = self._running_port() or self._launch(binaries)
        if not self._follows:
            self._prepare(binaries, port)
        return Server(self, port)

    def stop(self) -> None:
        """Stop the server in order; quiet when it does not run, or was never made."""
        lines = self._pid_lines()
        if not lines:
            return
        binaries, sockets = self._binaries(), lines[4:5]
        self._run([f"{binaries}/pg_ctl", "-D", str(self.folder), "-m", "fast", "-w", "stop"])
        for folder in sockets:
            self._run(["rm", "-rf", folder])

    def remove(self) -> None:
        """Stop the server and remove the folder; for databases that are rebuilt each time."""
        if self._exists():
            self.stop()
            self._must(["rm", "-rf", str(self.folder)])

    def follow(self, name: str) -> "Cluster":
        """Rebuild *name*: a streaming copy of this running server, which can be started then."""
        copy = Cluster(self.where, name, self.settings)
        copy.remove()
        binaries, port = self._binaries(), self._running_port()
        done = self._run(
            [
                f"{binaries}/pg_basebackup", "-w", "-U", "keeper", "-h", "127.0.0.1",
                "-p", str(port),
                "-D", str(copy.folder), "-R", "-X", "stream", "-c", "fast",
            ],
            extra={"PGPASSWORD": self.where.secrets()["keeper"]},
        )  # fmt: skip
        if done.returncode:
            raise LauncherError(f"The replica could not be made: {done.stderr.strip()}")
        return copy

    @property
    def _follows(self) -> bool:
        """Whether it is the copy of another server, which nothing can be written to."""
        return self._run(["test", "-e", str(self.folder / "standby.signal")]).returncode == 0

    def _binaries(self) -> Path:
        found = {path.parent.parent.name: path.parent for path in BINARIES.glob("*/bin/postgres")}
        if self._exists():
            version = self._output(["cat", str(self.folder / "PG_VERSION")]).strip()
            if version in found:
                return found[version]
            raise LauncherError(
                f"The data in {self.folder} were made by PostgreSQL {version}, whose server is "
                f"not installed here (found: {', '.join(sorted(found)) or 'none'}). Nothing was "
                f"changed. Install postgresql-{version}, or move that folder away to begin anew."
            )
        if not found:
            debian.install("postgresql", why="Kessa keeps its records in PostgreSQL")
            found = {
                path.parent.parent.name: path.parent for path in BINARIES.glob("*/bin/postgres")
            }
        if not found:
            raise LauncherError("Debian's package postgresql is installed but brings no server.")
        return found[max(found, key=float)]

    def _exists(self) -> bool:
        return self._run(["test", "-e", str(self.folder / "PG_VERSION")]).returncode == 0

    def _create(self, binaries: Path) -> None:
        """Make the cluster beside its place and move it there when it is whole."""
        print(f"Creating the {self.name} database folder ...", flush=True)
        if os.geteuid() == 0:
            owner = pwd.getpwnam(SERVER_USER)
            os.chown(self.where.data, owner.pw_uid, owner.pw_gid)
        fresh = self.where.data / f"{self.name}.new"
        self._run(["rm", "-rf", str(fresh), f"{fresh}.word"])
        self._must(["sh", "-c", f"umask 077; cat > '{fresh}.word'"], self.where.secrets()["keeper"])
        command = [
            f"{binaries}/initdb", "-D", str(fresh), "-U", "keeper", "--auth=scram-sha-256",
            f"--pwfile={fresh}.word", "--locale=C.UTF-8", "--encoding=UTF8",
        ]  # fmt: skip
        if self.settings:
            command.append("--no-sync")
        self._must(command)
        self._must(["rm", f"{fresh}.word"])
        self._must(["mv", "-T", str(fresh), str(self.folder)])

    def _launch(self, binaries: Path) -> int:
        sockets = tempfile.mkdtemp(prefix="kessa-")
        if os.geteuid() == 0:
            shutil.chown(sockets, SERVER_USER, SERVER_USER)
        settings = ["listen_addresses=127.0.0.1", f"unix_socket_directories={sockets}"]
        settings += ["log_timezone=UTC", "timezone=UTC", "max_connections=60"]
        settings += [f"shared_buffers={_buffers()}MB", *TUNED, *self.settings]
        options = " ".join(f"-c {setting}" for setting in settings)
        log = f"{self.folder}.log"
        command = [f"{binaries}/pg_ctl", "-D", str(self.folder), "-l", log, "-w", "-t", "60"]
        for _ in range(START_TRIES):
            port = ports.free(5440)  # another server may have taken the last one meanwhile
            done = self._run([*command, "-o", f"-p {port} {options}", "start"])
            if not done.returncode:
                break
            time.sleep(1)  # a killed server's own children may need a moment to go
        if done.returncode:
            tail = self._output(["tail", "-n", "12", log])
            raise LauncherError(f"PostgreSQL did not start from {self.folder}:\n{tail}")
        return port

    def _running_port(self) -> int | None:
        """The port of a server that an earlier start left behind, else None.

        A server that was killed leaves its pid file; where nobody collects dead processes the
        number even seems alive, so the process itself is looked at and a stale file removed.
        """
        lines = self._pid_lines()
        if not lines:
            return None
        if self._serves(lines[0]):
            return int(lines[3]) if len(lines) > 4 else None
        self._run(["rm", "-f", str(self.folder / "postmaster.pid")])
        return None

    def _serves(self, pid: str) -> bool:
        """Whether process *pid* is alive and is a server on this folder."""
        try:
            state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
            command = Path(f"/proc/{pid}/cmdline").read_bytes().split(b"\0")
        except OSError:
            return False
        return state != "Z" and str(self.folder).encode() in command

    def _pid_lines(self) -> list[str]:
        return self._output(["cat", str(self.folder / "postmaster.pid")]).splitlines()

    def _prepare(self, binaries: Path, port: int) -> None:
        """Make the two roles and the database where they are missing. The owner may act as the
        application, which tests do for the length of a request; not the other way round."""
        words = self.where.secrets()
        script = f"""
            SELECT 'CREATE ROLE kessa LOGIN CREATEDB'
             WHERE NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'kessa') \\gexec
            ALTER ROLE kessa PASSWORD '{words["database"]}';
            SELECT 'CREATE ROLE kessa_app LOGIN'
             WHERE NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'kessa_app') \\gexec
            ALTER ROLE kessa_app PASSWORD '{words["application"]}';
            GRANT kessa_app TO kessa;
            SELECT 'CREATE DATABASE kessa OWNER kessa'
             WHERE NOT EXISTS (SELECT FROM pg_database WHERE datname = 'kessa') \\gexec
        """
        address = ["-h", "127.0.0.1", "-p", str(port), "-U", "keeper", "-d", "postgres"]
        command = [f"{binaries}/psql", "-X", "-q", "-w", "-v", "ON_ERROR_STOP=1", *address]
        done = self._run(command, script, {"PGPASSWORD": words["keeper"]})
        if done.returncode:
            raise LauncherError(
                f"Could not sign in to our own PostgreSQL server: {done.stderr.strip()}"
            )

    def _run(
        self, command: list[str], text: str = "", extra: dict[str, str] | None = None
    ) -> subprocess.CompletedProcess[str]:
        """Run as the database's user, in "/", away from the terminal's signals.

        Output goes through files: a server that continues running would keep a pipe open.
        """
        environ = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "LANG": "C.UTF-8", **(extra or {})}
        if os.geteuid() == 0:
            command = ["runuser", "-u", SERVER_USER, "--", *command]
        with tempfile.TemporaryFile("w+") as out, tempfile.TemporaryFile("w+") as err:
            done = subprocess.run(
                command, input=text, stdout=out, stderr=err, text=True,
                cwd="/", env=environ, start_new_session=True,
            )  # fmt: skip
            out.seek(0)
            err.seek(0)
            return subprocess.CompletedProcess(command, done.returncode, out.read(), err.read())

    def _output(self, command: list[str]) -> str:
        return self._run(command).stdout

    def _must(self, command: list[str], text: str = "") -> None:
        done = self._run(command, text)
        if done.returncode:
            raise LauncherError(
                f"{Path(command[0]).name} failed: {(done.stderr or done.stdout).strip()}"
            )


def _buffers() -> int:
    """The server's own memory, in MB: an eighth of the machine's, 128 at least, 2048 at most."""
    memory = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // 2**20
    return min(max(memory // 8, 128), 2048)
