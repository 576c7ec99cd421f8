"""An exchange-rate source: answers every GET with a list of rates against the euro, one day or the last ninety.

    python -m simulators.rates [port]

Invented rates that drift a little from day to day, the same for the same day on every machine.
"""

import math
import sys
from datetime import date, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from xml.sax.saxutils import quoteattr

AROUND = {"GBP": 0.855, "SEK": 11.36, "DKK": 7.46, "NOK": 11.7, "CHF": 0.95, "USD": 1.09, "PLN": 4.3}
DAYS = 90


def per_euro(currency: str, day: date) -> float:
    """A slow wave of two percent, shifted by currency."""
    phase = sum(map(ord, currency))
    return round(AROUND[currency] * (1 + 0.02 * math.sin(day.toordinal() / 23 + phase)), 4)


def listing(today: date, days: int) -> str:
    """Nested Cube elements, newest day first; nothing on Saturdays and Sundays."""
    cubes = []
    for back in range(days):
        day = today - timedelta(days=back)
        if day.weekday() < 5:
            rates = "".join(f'<Cube currency="{c}" rate="{per_euro(c, day)}"/>' for c in AROUND)
            cubes.append(f"<Cube time={quoteattr(day.isoformat())}>{rates}</Cube>")
    return f'<?xml version="1.0" encoding="UTF-8"?><Envelope><Cube>{"".join(cubes)}</Cube></Envelope>'


class Source(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        body = listing(date.today(), 7 if self.path.endswith("daily.xml") else DAYS).encode()
        self.send_response(200)
        self.send_header("Content-Type", "application/xml")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        """Quiet: it runs beside the workshop's own output."""


def serve(port: int = 0) -> ThreadingHTTPServer:
    """A server on loopback, not yet running; port 0 takes a free one."""
    return ThreadingHTTPServer(("127.0.0.1", port), Source)


if __name__ == "__main__":
    server = serve(int(sys.argv[1]) if len(sys.argv) > 1 else 8201)
    print(f"Exchange rates at http://127.0.0.1:{server.server_port}/rates.xml", flush=True)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        server.server_close()
