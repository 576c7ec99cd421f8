"""A marketplace to sell on: listings, questions, offers, sales and payouts over HTTP, with faults to switch on.

    python -m simulators.marketplace [port] [file that it keeps what it knows in]

Everything that changes something may be sent again: the same leads to the same. `GET /` is a page to play the buyer.
"""

import contextlib
import html
import json
import sys
import threading
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, unquote

FEE_PERCENT = 12
# What is done for a request: the status of the answer, and what it says.
Act = Callable[[], tuple[int, object]]


@dataclass
class Faults:
    """What goes wrong: answers that come late (seconds), so many errors, answers lost after the thing was done, sales
    told twice, nonsense among the news, and a market that sells what was ended."""

    slow: float = 0.0
    errors: int = 0
    lose: int = 0
    twice: int = 0
    nonsense: int = 0
    oversell: bool = False

    def spend(self, name: str) -> bool:
        left = getattr(self, name)
        if left:
            setattr(self, name, left - 1)
        return bool(left)


@dataclass
class Market:
    """What stands there, and what happened, in order."""

    keep: Path | None = None
    listings: dict[str, dict[str, Any]] = field(default_factory=dict)
    news: list[dict[str, Any]] = field(default_factory=list)
    answers: dict[str, dict[str, Any]] = field(default_factory=dict)
    faults: Faults = field(default_factory=Faults)
    lock: threading.RLock = field(default_factory=threading.RLock)

    def load(self) -> None:
        if self.keep and self.keep.exists():
            told = json.loads(self.keep.read_text())
            self.listings, self.news, self.answers = told["listings"], told["news"], told["answers"]

    def save(self) -> None:
        if self.keep:
            self.keep.parent.mkdir(parents=True, exist_ok=True)
            known = {"listings": self.listings, "news": self.news, "answers": self.answers}
            self.keep.write_text(json.dumps(known))

    def put(self, ref: str, wanted: dict[str, Any]) -> tuple[int, dict[str, Any]]:
        there = self.listings.get(ref)
        if there and there["state"] == "sold":
            return 409, {"state": "sold"}
        self.listings[ref] = {**wanted, "state": "open"}
        return 200, {"state": "open", "listing": ref}

    def end(self, ref: str) -> tuple[int, dict[str, Any]]:
        there = self.listings.get(ref)
        if there and there["state"] == "open":
            there["state"] = "ended"
        return 200, {"state": there["state"] if there else "ended"}

    def buy(self, ref: str, who: str) -> tuple[int, dict[str, Any]]:
        there = self.listings.get(ref)
        if there is None or (there["state"] != "open" and not self.faults.oversell):
            return 409, {"state": there["state"] if there else "unknown"}
        there["state"] = "sold"
        amount = there["price"]
        fee = f"{float(amount) * FEE_PERCENT / 100:.2f}"
        sale = self.tell("sale", ref, who=who, amount=amount, fee=fee, currency=there["currency"])
        if self.faults.spend("twice"):
            self.news.append(dict(sale))
        return 200, sale

    def ask(self, ref: str, who: str, words: str) -> tuple[int, dict[str, Any]]:
        return 200, self.tell("question", ref, who=who, words=words)

    def offer(self, ref: str, who: str, amount: str) -> tuple[int, dict[str, Any]]:
        currency = self.listings.get(ref, {}).get("currency", "EUR")
        return 200, self.tell("offer", ref, who=who, amount=amount, currency=currency)

    def pay(self, ref: str, amount: str) -> tuple[int, dict[str, Any]]:
        currency = self.listings.get(ref, {}).get("currency", "EUR")
        return 200, self.tell("payout", ref, amount=amount, currency=currency)

    def tell(self, kind: str, ref: str, **more: str) -> dict[str, Any]:
        name = f"{kind[0]}-{uuid.uuid4().hex[:16]}"
        told = {"kind": kind, "id": name, "listing": ref, "day": f"{date.today()}", **more}
        self.news.append(told)
        return told

    def since(self, number: int) -> tuple[int, dict[str, Any]]:
        news: list[Any] = list(self.news[number:])
        if self.faults.spend("nonsense"):
            news.append({"kind": "sale", "id": 7, "amount": "a lot"})
        return 200, {"news": news, "next": len(self.news)}

    def answer(self, ref: str, what: dict[str, Any]) -> tuple[int, dict[str, Any]]:
        self.answers.setdefault(ref, what)
        return 200, self.answers[ref]


class Handler(BaseHTTPRequestHandler):
    """One request; `market` is the server’s."""

    protocol_version = "HTTP/1.1"

    @property
    def market(self) -> Market:
        market: Market = self.server.market  # type: ignore[attr-defined]
        return market

    def do_GET(self) -> None:
        if self.path == "/":
            self._send(200, self._page(), "text/html; charset=utf-8")
        elif self.path.startswith("/v1/news"):
            after = int(parse_qs(self.path.partition("?")[2]).get("after", ["0"])[0])
            self._act(lambda: self.market.since(after))
        else:
            self._send(404, {})

    def do_PUT(self) -> None:
        body = self._body()
        self._act(lambda: self.market.put(self._last(), body))

    def do_DELETE(self) -> None:
        self._act(lambda: self.market.end(self._last()))

    def do_POST(self) -> None:
        body, market = self._body(), self.market
        room, _, last = self.path.strip("/").rpartition("/")
        if room == "v1/answers":
            self._act(lambda: market.answer(unquote(last), body))
        elif self.path == "/faults":
            for name, value in body.items():
                setattr(market.faults, name, type(getattr(Faults(), name))(float(value)))
            self._send(200, vars(market.faults))
        elif room == "play":
            ref, who = body.get("listing", ""), body.get("who", "somebody")
            acts = {
                "buy": lambda: market.buy(ref, who),
                "ask": lambda: market.ask(ref, who, body.get("words", "Does it start?")),
                "offer": lambda: market.offer(ref, who, body.get("amount", "1.00")),
                "pay": lambda: market.pay(ref, body.get("amount", "1.00")),
            }
            self._play(acts.get(last, lambda: (404, {})))
        else:
            self._send(404, {})

    def _act(self, act: Act) -> None:
        """As the marketplace does it, with whatever goes wrong."""
        faults = self.market.faults
        time.sleep(faults.slow)
        with self.market.lock:
            if faults.spend("errors"):
                self._send(500, {"error": "out of order"})
                return
            code, told = act()
            self.market.save()
            if faults.spend("lose"):
                self.close_connection = True
                return
        self._send(code, told)

    def _play(self, act: Act) -> None:
        with self.market.lock:
            code, told = act()
            self.market.save()
        if "json" in self.headers.get("Content-Type", ""):
            self._send(code, told)
            return
        self.send_response(303)
        self.send_header("Location", "/")
        self.send_header("Content-Length", "0")
        self.end_headers()

    def _last(self) -> str:
        return unquote(self.path.rpartition("/")[2])

    def _body(self) -> dict[str, Any]:
        told = self.rfile.read(int(self.headers.get("Content-Length") or 0)).decode()
        if "json" in self.headers.get("Content-Type", ""):
            read: dict[str, Any] = json.loads(told or "{}")
            return read
        return {name: values[0] for name, values in parse_qs(told).items()}

    def _send(self, code: int, told: object, kind: str = "application/json") -> None:
        body = told.encode() if isinstance(told, str) else json.dumps(told).encode()
        # Who asked may have given up meanwhile.
        with contextlib.suppress(ConnectionError):
            self.send_response(code)
            self.send_header("Content-Type", kind)
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

    def _page(self) -> str:
        rows = []
        for ref, there in self.market.listings.items():
            name, words = html.escape(ref, quote=True), html.escape(f"{there['title']}: {there['price']}")
            acts = "".join(
                f'<form method="post" action="/play/{act}"><input type="hidden" name="listing" value="{name}">'
                f'<input name="who" value="a visitor">{more}<button>{act}</button></form>'
                for act, more in (
                    ("buy", ""),
                    ("ask", '<input name="words" value="Does it start?">'),
                    ("offer", '<input name="amount" value="50.00">'),
                    ("pay", '<input name="amount" value="50.00">'),
                )
            )
            rows.append(f"<h2>{words}, {there['state']}</h2>{acts}")
        return f"<!doctype html><title>The marketplace</title><h1>The marketplace</h1>{''.join(rows)}"

    def log_message(self, *_: object) -> None:
        """Quiet: it runs beside the workshop's own output."""


def serve(port: int = 0, keep: Path | None = None) -> ThreadingHTTPServer:
    """A server on loopback, not yet running; port 0 takes a free one. Its `market` can be looked at and played with."""
    server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
    server.daemon_threads = True
    market = Market(keep)
    market.load()
    server.market = market  # type: ignore[attr-defined]
    return server


if __name__ == "__main__":
    server = serve(int(sys.argv[1]) if len(sys.argv) > 1 else 8206, Path(sys.argv[2]) if len(sys.argv) > 2 else None)
    print(f"A marketplace at http://127.0.0.1:{server.server_port}/", flush=True)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        server.server_close()
