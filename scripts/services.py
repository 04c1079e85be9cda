"""A database, a queue and a store as separate servers on this machine, each with a folder of its own."""

import os
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

import boto3
import psycopg
import psycopg.sql
import redis

POSTGRES = sorted(Path("/usr/lib/postgresql").glob("*/bin"))[-1]
BUCKET = "plinto-blobs"


def _free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


def _until(works: Callable[[], object], what: str) -> None:
    for _ in range(150):
        try:
            works()
            return
        except (OSError, psycopg.OperationalError, redis.RedisError):
            time.sleep(0.2)
    raise TimeoutError(f"{what} does not answer")


class Services:
    """PostgreSQL, Redis and an S3-compatible store (moto's server); `env` names them to Plinto."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._database, self._queue, self._store = _free_port(), _free_port(), _free_port()
        self.processes: list[subprocess.Popen[bytes]] = []
        self.database = f"postgresql://postgres@127.0.0.1:{self._database}/plinto"
        self.queue = f"redis://127.0.0.1:{self._queue}/0"
        self.store = f"s3://{BUCKET}/house?endpoint=http://127.0.0.1:{self._store}&region=eu-central-1"
        self.env = {
            "PLINTO_DATABASE": self.database, "PLINTO_QUEUE": self.queue, "PLINTO_STORE": self.store,
            "PLINTO_SECRET_KEY": "one-key-for-all-machines-of-a-house-0123456789",
            "AWS_ACCESS_KEY_ID": "made-up", "AWS_SECRET_ACCESS_KEY": "made-up",
        }  # fmt: skip

    def begin(self) -> None:
        """Start all three, and make what they hold."""
        self._begin_database()
        self._start(["redis-server", "--port", str(self._queue), "--save", "", "--dir", str(self.folder)])
        self._start([str(Path(sys.executable).parent / "moto_server"), "-H", "127.0.0.1", "-p", str(self._store)])
        _until(self.redis().ping, "Redis")
        _until(lambda: urllib.request.urlopen(f"http://127.0.0.1:{self._store}/", timeout=2).close(), "the store")
        self.s3().create_bucket(Bucket=BUCKET, CreateBucketConfiguration={"LocationConstraint": "eu-central-1"})

    def _begin_database(self) -> None:
        data = self.folder / "database"
        data.mkdir()
        # PostgreSQL does not run as root.
        become = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
        if become:
            shutil.chown(data, "postgres")
            for above in (self.folder, *self.folder.parents):
                if above.stat().st_uid == 0 and above != Path("/"):
                    above.chmod(above.stat().st_mode | 0o011)
        make = [*become, str(POSTGRES / "initdb"), "-D", str(data), "-U", "postgres", "-A", "trust", "-E", "UTF8"]
        subprocess.run(make, check=True, stdout=subprocess.DEVNULL, cwd="/")
        run = [
            str(POSTGRES / "postgres"),
            "-D",
            str(data),
            "-p",
            str(self._database),
            "-h",
            "127.0.0.1",
            "-k",
            str(data),
        ]
        self._start([*become, *run])
        _until(lambda: psycopg.connect(self._maintenance, connect_timeout=2).close(), "PostgreSQL")
        self.create_database("plinto")

    @property
    def _maintenance(self) -> str:
        return self.database.replace("/plinto", "/postgres")

    def create_database(self, name: str) -> None:
        """An empty database of its own."""
        with psycopg.connect(self._maintenance, autocommit=True) as connection:
            connection.execute(psycopg.sql.SQL("CREATE DATABASE {}").format(psycopg.sql.Identifier(name)))

    def _start(self, command: list[str]) -> None:
        log = (self.folder / f"{Path(command[0]).name} {len(self.processes)}.log").open("ab")
        self.processes.append(
            subprocess.Popen(command, stdout=log, stderr=log, cwd="/", env={**os.environ, **self._keys()})
        )

    def _keys(self) -> dict[str, str]:
        return {name: value for name, value in self.env.items() if name.startswith("AWS_")}

    def redis(self) -> "redis.Redis":
        """A connection to the queue."""
        return redis.Redis(host="127.0.0.1", port=self._queue)

    def s3(self) -> "boto3.client":
        """A client of the store."""
        return boto3.client(
            "s3", endpoint_url=f"http://127.0.0.1:{self._store}", region_name="eu-central-1",
            aws_access_key_id="made-up", aws_secret_access_key="made-up",
        )  # fmt: skip

    def asked(self, question: str, *values: object) -> list[tuple[object, ...]]:
        """Rows of the database."""
        with psycopg.connect(self.database, autocommit=True) as connection:
            return connection.execute(question, values).fetchall()

    def count_locks(self, on: bool) -> int:
        """Begin or end to note every statement; how often the house's lock was taken so far while it was noted."""
        for statement in (f"ALTER SYSTEM SET log_statement = '{'all' if on else 'none'}'", "SELECT pg_reload_conf()"):
            with psycopg.connect(self.database, autocommit=True) as connection:
                connection.execute(statement)
        logs = [path.read_text(errors="replace") for path in self.folder.glob("*.log")]
        return sum(text.count("pg_advisory_xact_lock") for text in logs)

    def stored(self) -> set[str]:
        """Digests of the files in the store."""
        pages = self.s3().get_paginator("list_objects_v2").paginate(Bucket=BUCKET)
        return {item["Key"].rsplit("/", 1)[-1] for page in pages for item in page.get("Contents", [])}

    def cut_connections(self) -> tuple[int, int]:
        """Break every line to database and queue; how many of each."""
        rows = self.asked("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = 'plinto' "
                          "AND pid <> pg_backend_pid()")  # fmt: skip
        return len(rows), int(self.redis().client_kill_filter(_type="normal", skipme=True))

    def end(self) -> None:
        """Stop all three."""
        for process in reversed(self.processes):
            process.terminate()
        for process in self.processes:
            process.wait(timeout=30)
