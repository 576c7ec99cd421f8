"""A source of carriers’ prices: answers every GET with the tables of three invented carriers, as CSV.

python -m simulators.carriers [port]
"""

import sys
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

HEAD = (
    "carrier,zone,up_to_kg,price,divisor,heaviest_kg,longest_mm,girth_mm,lithium_cells,covered,cover_percent,cover_most"
)
# Terms: divisor, heaviest kg, longest mm, girth mm, lithium cells, covered, cover percent, cover at most.
CARRIERS = {
    "Skerry Post": "5000,31.5,1200,3000,inside,100,0.8,1000",
    "Marrow Parcel": "6000,40,2000,4200,any,500,0.5,2500",
    "Harbour Bike": "4000,10,600,1600,none,50,0,50",
}
PRICES = {
    ("Skerry Post", "home"): ((2, "5.20"), (5, "6.90"), (10, "9.40"), (20, "15.80"), (31.5, "21.50")),
    ("Skerry Post", "near abroad"): ((2, "11.90"), (5, "15.40"), (10, "21.00"), (20, "33.50"), (31.5, "46.00")),
    ("Skerry Post", "far abroad"): ((2, "24.50"), (5, "39.00"), (10, "62.00"), (20, "101.00")),
    ("Marrow Parcel", "home"): ((5, "8.10"), (10, "10.20"), (20, "14.40"), (31.5, "19.90"), (40, "24.00")),
    ("Marrow Parcel", "near abroad"): ((5, "16.80"), (10, "20.60"), (20, "29.80"), (40, "52.00")),
    ("Harbour Bike", "home"): ((3, "4.50"), (10, "7.00")),
}


def table() -> str:
    """A line a band; the same every time."""
    lines = [
        f"{carrier},{zone},{up_to},{price},{CARRIERS[carrier]}"
        for (carrier, zone), bands in PRICES.items()
        for up_to, price in bands
    ]
    return "\n".join([HEAD, *lines]) + "\n"


class Source(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        body = table().encode()
        self.send_response(200)
        self.send_header("Content-Type", "text/csv; charset=utf-8")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        """Quiet: it runs beside the workshop's own output."""


def serve(port: int = 0) -> ThreadingHTTPServer:
    """A server on loopback, not yet running; port 0 takes a free one."""
    return ThreadingHTTPServer(("127.0.0.1", port), Source)


if __name__ == "__main__":
    server = serve(int(sys.argv[1]) if len(sys.argv) > 1 else 8202)
    print(f"Carriers’ prices at http://127.0.0.1:{server.server_port}/prices.csv", flush=True)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        server.server_close()
