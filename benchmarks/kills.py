"""Hard kills of workers, the database, the start script alone and everything: is it up again, and is anything lost?

Runs `bin/start` in a folder of its own, writes one row before each kill, and prints what came of it.

.venv/bin/python -m benchmarks.kills [how many] [port]
"""

import http.cookiejar
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.parse
import urllib.request
from contextlib import suppress
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
TARGETS = ("worker", "server", "database", "start", "everything")
# Seconds until it must answer again.
PATIENCE = 120


class Instance:
    """One running shop in a folder of its own."""

    def __init__(self, home: Path, port: int) -> None:
        self.home, self.port = home, port
        self.url = f"http://127.0.0.1:{port}"
        self.log = (home / "start.log").open("a")
        self.written: list[str] = []

    def start(self) -> None:
        more = {"WENDOPOLIS_VAR": str(self.home / "var"), "WENDOPOLIS_PORT": str(self.port)}
        more["WENDOPOLIS_INSTRUMENTS_PORT"] = str(self.port + 10)
        (self.home / "var").mkdir(exist_ok=True)
        self.process = subprocess.Popen(  # noqa: S603 - our own script
            [ROOT / "bin" / "start"], env=os.environ | more, stdout=self.log, stderr=self.log, start_new_session=True
        )

    def answers(self) -> bool:
        with suppress(OSError):
            return urllib.request.urlopen(f"{self.url}/shop/", timeout=3).status == 200  # noqa: S310 - loopback
        return False

    def up_again(self) -> float | None:
        """Seconds until it answers, three times on end; None when it never does."""
        began, good = time.monotonic(), 0
        while time.monotonic() - began < PATIENCE:
            good = good + 1 if self.answers() else 0
            if good == 3:
                return time.monotonic() - began
            time.sleep(0.3)
        return None

    def sign_in(self) -> None:
        jar = urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar())
        self.web = urllib.request.build_opener(jar)
        self.post("/people/sign-in/", username="runa", password="harbour-runa")  # noqa: S106 - the demo's

    def post(self, path: str, **data: str) -> int:
        page = self.web.open(self.url + path, timeout=30).read().decode()
        token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)[1]
        body = urllib.parse.urlencode(data | {"csrfmiddlewaretoken": token}).encode()
        request = urllib.request.Request(self.url + path, body, {"Referer": self.url})  # noqa: S310 - loopback
        return self.web.open(request, timeout=30).status

    def write(self, name: str) -> None:
        """One row that is acknowledged before the kill."""
        self.post("/bench/known-good/", name=name, kind="part", stands_in="screen", place="", signals="")
        self.written.append(name)

    def lost(self) -> list[str]:
        page = self.web.open(f"{self.url}/bench/known-good/", timeout=30).read().decode()
        pages = max((int(n) for n in re.findall(r"page=(\d+)", page)), default=1)
        for number in range(2, pages + 1):
            page += self.web.open(f"{self.url}/bench/known-good/?page={number}", timeout=30).read().decode()
        return [name for name in self.written if name not in page]

    def processes(self) -> dict[str, list[int]]:
        """Our processes by what they are."""
        found: dict[str, list[int]] = {"database": [], "gunicorn": [], "others": []}
        for entry in Path("/proc").glob("[0-9]*"):
            with suppress(OSError):
                line = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
                pid = int(entry.name)
                if "mariadbd" in line and f"{self.home}/var/" in line:
                    found["database"].append(pid)
                elif "gunicorn" in line and f"127.0.0.1:{self.port} " in line:
                    found["gunicorn"].append(pid)
                elif pid != self.process.pid and os.getsid(pid) == self.process.pid:
                    found["others"].append(pid)
        return found

    def kill(self, target: str) -> None:
        there = self.processes()
        pids = {
            "worker": sorted(there["gunicorn"])[1:2],
            "server": sorted(there["gunicorn"])[:1],
            "database": there["database"],
            "start": [self.process.pid],
            "everything": [self.process.pid, *(pid for pids in there.values() for pid in pids)],
        }[target]
        for pid in pids:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        if target in {"start", "everything"}:
            self.process.wait()
            self.start()


def main(count: int, port: int) -> None:
    home = Path(tempfile.mkdtemp(prefix="kills-"))
    shop = Instance(home, port)
    shop.start()
    failed = lost = 0
    try:
        if shop.up_again() is None:
            raise SystemExit("it never came up the first time; see " + str(home))
        for number in range(count):
            target = TARGETS[number % len(TARGETS)]
            shop.sign_in()
            shop.write(f"Kill {number:04d}")
            shop.kill(target)
            time.sleep(0.5)
            took = shop.up_again()
            if took is None:
                failed += 1
                print(f"{number + 1:3d} {target:10s} never came up again")
                break
            shop.sign_in()
            gone = shop.lost()
            lost += len(gone)
            print(f"{number + 1:3d} {target:10s} up again after {took:5.1f} s, {len(gone)} of {len(shop.written)} lost")
        print(f"{count} hard kills: {failed} not up again, {lost} acknowledged writes lost")
    finally:
        shop.process.terminate()
        with suppress(subprocess.TimeoutExpired):
            shop.process.wait(60)
        if not failed:
            shutil.rmtree(home, ignore_errors=True)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 50, int(sys.argv[2]) if len(sys.argv) > 2 else 8311)
