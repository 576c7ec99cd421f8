"""Work through what is queued, until told to stop. As many of these may run, on as many machines, as there is work."""

import os
import signal
import socket
import threading
import time
import uuid

from django.core.management.base import BaseCommand
from django.db import Error, close_old_connections

from stations.queue import services

PAUSE, AFTER_TROUBLE, AGAIN = 0.5, 5.0, 5.0


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser) -> None:
        parser.add_argument("--until-empty", action="store_true", help="stop when nothing is due any more")

    def handle(self, *args, until_empty: bool = False, **options) -> None:
        told = threading.Event()
        if not until_empty:
            for number in (signal.SIGTERM, signal.SIGINT):
                signal.signal(number, lambda *_: told.set())
        services.forget_old()
        worker = f"{socket.gethostname()[:24]}-{os.getpid()}-{uuid.uuid4().hex[:12]}"
        asked = 0.0
        while not told.is_set():
            try:
                if not until_empty and time.monotonic() - asked > AGAIN:
                    asked = time.monotonic()
                    services.note_worker()
                    services.put_recurring()
                done = services.work_once(worker)
            except Error:
                # The database went away, or a transaction was undone: it comes back, on a new connection.
                close_old_connections()
                told.wait(AFTER_TROUBLE)
                continue
            if done is None:
                if until_empty:
                    return
                told.wait(PAUSE)
