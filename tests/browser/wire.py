"""A wire between a browser and the shop that can be cut."""

import socket
import threading
from contextlib import suppress


class Wire:
    """Listens on a port of its own and passes on what comes. While it is cut nobody gets through, and what was on its
    way is lost, as where a cellar swallows the signal."""

    def __init__(self, host: str, port: int) -> None:
        self._to = (host, port)
        self._ends: set[socket.socket] = set()
        self._is_whole = True
        self._door = socket.create_server(("127.0.0.1", 0))
        self.port = self._door.getsockname()[1]
        threading.Thread(target=self._answer, daemon=True).start()

    def cut(self) -> None:
        self._is_whole = False
        for end in list(self._ends):
            with suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def mend(self) -> None:
        self._is_whole = True

    def close(self) -> None:
        self.cut()
        self._door.close()

    def _answer(self) -> None:
        while True:
            try:
                here, _ = self._door.accept()
            except OSError:
                return  # closed
            if not self._is_whole:
                here.close()
                continue
            there = socket.create_connection(self._to)
            self._ends |= {here, there}
            for ends in ((here, there), (there, here)):
                threading.Thread(target=self._pass_on, args=ends, daemon=True).start()

    def _pass_on(self, source: socket.socket, target: socket.socket) -> None:
        with suppress(OSError):
            while part := source.recv(65536):
                target.sendall(part)
        for end in (source, target):
            with suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
        self._ends -= {source, target}
