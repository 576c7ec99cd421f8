"""A shop of its own on loopback, begun by `bin/start` in a folder of its own, and visitors who come to it by HTTP."""

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
import uuid
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from html.parser import HTMLParser
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
# Seconds until it must answer (again).
PATIENCE = 120


class Instance:
    """One running shop with the demo's data."""

    def __init__(self, home: Path, port: int) -> None:
        self.home, self.port = home, port
        self.url = f"http://127.0.0.1:{port}"
        self.log = (home / "start.log").open("a")

    def start(self) -> None:
        more = {"WENDOPOLIS_VAR": str(self.home / "var"), "WENDOPOLIS_PORT": str(self.port)}
        more["WENDOPOLIS_INSTRUMENTS_PORT"] = str(self.port + 10)
        (self.home / "var").mkdir(exist_ok=True)
        self.process = subprocess.Popen(  # noqa: S603 - our own script
            [ROOT / "bin" / "start"], env=os.environ | more, stdout=self.log, stderr=self.log, start_new_session=True
        )

    def manage(self, *command: str) -> str:
        """What a management command says on this shop's database."""
        env = os.environ | {"WENDOPOLIS_VAR": str(self.home / "var")}
        run = [ROOT / "bin" / "manage", *command]
        return subprocess.run(run, env=env, capture_output=True, text=True, check=False).stdout.strip()  # noqa: S603

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

    def stop(self) -> None:
        self.process.terminate()
        with suppress(subprocess.TimeoutExpired):
            self.process.wait(60)


@contextmanager
def a_shop(port: int, name: str) -> Iterator[Instance]:
    """A shop that is up; its folder stays when something went wrong, for its log."""
    signal.signal(signal.SIGTERM, lambda *_: sys.exit("stopped"))
    home = Path(tempfile.mkdtemp(prefix=f"{name}-"))
    shop = Instance(home, port)
    shop.start()
    try:
        if shop.up_again() is None:
            raise SystemExit(f"it never came up the first time; see {home}")
        yield shop
    except BaseException:
        print(f"its folder is {home}")
        raise
    finally:
        shop.stop()
    shutil.rmtree(home, ignore_errors=True)


@dataclass(frozen=True)
class Answer:
    status: int
    text: str
    leads_to: str = ""


class _Stay(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *args, **kwargs):
        return None


class Visitor:
    """A browser without a screen: keeps cookies, follows nothing unless told."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.jar = http.cookiejar.CookieJar()
        self.web = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar), _Stay)

    def ask(self, path: str, body: bytes | None = None, kind: str = "") -> Answer:
        headers = {"Referer": self.url} | ({"Content-Type": kind} if kind else {})
        request = urllib.request.Request(self.url + path, body, headers)  # noqa: S310 - loopback
        try:
            answer = self.web.open(request, timeout=120)
        except urllib.error.HTTPError as problem:
            answer = problem
        with answer:
            return Answer(answer.status, answer.read().decode(errors="replace"), answer.headers.get("Location", ""))

    def get(self, path: str) -> Answer:
        return self.ask(path)

    def token(self) -> str:
        """The cookie that a form must repeat."""
        return next((cookie.value or "" for cookie in self.jar if cookie.name == "csrftoken"), "")

    def post(self, path: str, data: Mapping[str, str | list[str]], files: Mapping[str, tuple] | None = None) -> Answer:
        pairs = [("csrfmiddlewaretoken", self.token())]
        for name, value in data.items():
            pairs += [(name, one) for one in (value if isinstance(value, list) else [value])]
        if files is None:
            return self.ask(path, urllib.parse.urlencode(pairs, errors="surrogatepass").encode(), FORM)
        return self.ask(path, *multipart(pairs, files))

    def sign_in(self, name: str) -> "Visitor":
        self.get("/people/sign-in/")
        answer = self.post("/people/sign-in/", {"username": name, "password": f"harbour-{name}"})
        if answer.status != 302:
            raise SystemExit(f"{name} could not sign in: {answer.status}")
        return self


FORM = "application/x-www-form-urlencoded"


def multipart(pairs: list[tuple[str, str]], files: Mapping[str, tuple]) -> tuple[bytes, str]:
    """Body and content type of a form with files: name → (file name, bytes)."""
    edge, parts = uuid.uuid4().hex, []
    for name, value in pairs:
        head = f'--{edge}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n'
        parts.append(head.encode() + value.encode(errors="surrogatepass") + b"\r\n")
    for name, (file_name, content) in files.items():
        head = f'--{edge}\r\nContent-Disposition: form-data; name="{name}"; filename="{file_name}"\r\n\r\n'
        parts.append(head.encode(errors="surrogatepass") + content + b"\r\n")
    return b"".join(parts) + f"--{edge}--\r\n".encode(), f"multipart/form-data; boundary={edge}"


@dataclass
class Form:
    """A form as it stands on a page: where it goes, and its fields with what they hold."""

    page: str
    action: str
    posts: bool
    fields: dict[str, list[str]]
    choices: dict[str, list[str]]
    files: list[str]


class PageReader(HTMLParser):
    """Finds the forms and links of a page."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.page, self.forms, self.links = page, [], set()
        self.form: Form | None = None
        self.select = self.area = ""

    def handle_starttag(self, tag, attrs):
        has = {name: value or "" for name, value in attrs}
        for name in ("href", "hx-get", "hx-post"):
            if has.get(name, "").startswith("/"):
                self.links.add(has[name])
        name = has.get("name", "")
        if tag == "option":
            self.option(has)
        elif tag == "form":
            action = has.get("hx-post") or has.get("action") or self.page.split("?")[0]
            posts = has.get("method", "").lower() == "post" or "hx-post" in has
            self.form = Form(self.page, action, posts, {}, {}, [])
            self.forms.append(self.form)
        elif self.form is None or not name or name == "csrfmiddlewaretoken":
            return
        elif tag == "input" and has.get("type") == "file":
            self.form.files.append(name)
        elif tag in {"input", "button"}:
            many = has.get("type") in {"radio", "checkbox", "submit"} or tag == "button"
            self.form.choices.setdefault(name, [])
            if many:
                self.form.choices[name].append(has.get("value", "on"))
            if not many or "checked" in has:
                self.form.fields.setdefault(name, []).append(has.get("value", "on" if many else ""))
        elif tag == "select":
            self.select = name
            self.form.choices.setdefault(name, [])
        elif tag == "textarea":
            self.area = name
            self.form.fields[name] = [""]

    def handle_startendtag(self, tag, attrs):
        self.handle_starttag(tag, attrs)

    def handle_data(self, data):
        if self.form and self.area:
            self.form.fields[self.area] = [self.form.fields[self.area][0] + data]

    def handle_endtag(self, tag):
        if tag == "form":
            self.form = None
        elif tag == "select":
            self.select = ""
        elif tag == "textarea":
            self.area = ""

    def option(self, has: dict[str, str]) -> None:
        if self.form and self.select:
            self.form.choices[self.select].append(has.get("value", ""))
            if "selected" in has or self.select not in self.form.fields:
                self.form.fields[self.select] = [has.get("value", "")]


def read_page(path: str, text: str) -> PageReader:
    reader = PageReader(path)
    reader.feed(text)
    return reader


def pattern_of(path: str) -> str:
    """The address with its numbers blotted out, so that like pages count as one."""
    return re.sub(r"\d+", "#", path.split("?")[0])


def crawl(visitor: Visitor, each: int = 3) -> tuple[list[str], list[Form]]:
    """Every address that can be reached by links, `each` of a kind, and every form on them."""
    waiting, seen, counts = ["/"], {"/"}, {}
    pages, forms = [], []
    while waiting:
        path = waiting.pop(0)
        kind = pattern_of(path)
        counts[kind] = counts.get(kind, 0) + 1
        if counts[kind] > each:
            continue
        answer = visitor.get(path)
        pages.append(path)
        found = read_page(path, answer.text)
        forms += found.forms
        links = found.links | {form.action for form in found.forms if form.action.startswith("/")}
        for link in sorted(links - seen):
            if not link.startswith(("/static/", "/people/sign-out/")):
                seen.add(link)
                waiting.append(link)
    return pages, forms
