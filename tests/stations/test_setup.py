"""Settings, starting and the door's other side."""

import os
import socket
import subprocess
import sys
from io import StringIO
from pathlib import Path
from unittest import mock

from django.core.management import CommandError, call_command
from django.test import Client, TestCase

from stations.people.models import Person

ROOT = Path(__file__).resolve().parents[2]
PRODUCTION = {
    "DJANGO_SETTINGS_MODULE": "config.settings.production",
    "WENDOPOLIS_SECRET_KEY": "k" * 25 + "0123456789abcdefghijklmnopqrstuvwxyz",
    "WENDOPOLIS_ALLOWED_HOSTS": "shop.example",
    "WENDOPOLIS_PROXIES": "127.0.0.1, 10.0.0.0/8",
}


def manage(*arguments: str, **environment: str) -> subprocess.CompletedProcess:
    given = {name: value for name, value in os.environ.items() if name != "DJANGO_ALLOW_ASYNC_UNSAFE"} | environment
    return subprocess.run(
        [sys.executable, "manage.py", *arguments], cwd=ROOT, env=given, capture_output=True, text=True
    )


class Production(TestCase):
    def test_passes_djangos_own_deployment_check(self):
        done = manage("check", "--deploy", "--fail-level", "WARNING", **PRODUCTION)
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_guesses_nothing(self):
        done = manage("check", **{**PRODUCTION, "WENDOPOLIS_SECRET_KEY": ""})
        self.assertIn("Set WENDOPOLIS_SECRET_KEY", done.stderr)

    def test_proxies_are_addresses_or_none(self):
        done = manage("check", **{**PRODUCTION, "WENDOPOLIS_PROXIES": "the one in front"})
        self.assertIn("Write addresses or networks, or none", done.stderr)
        self.assertEqual(manage("check", **{**PRODUCTION, "WENDOPOLIS_PROXIES": "none"}).returncode, 0)


class Starting(TestCase):
    def test_a_port_in_use_is_one_clear_line(self):
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = str(taken.getsockname()[1])
            done = subprocess.run(
                ["bin/start"], cwd=ROOT, env=os.environ | {"WENDOPOLIS_PORT": port}, capture_output=True, text=True
            )
        self.assertEqual(done.returncode, 1)
        self.assertEqual(
            done.stderr.strip(),
            f"start: port {port} is in use; stop what uses it, or set WENDOPOLIS_PORT to another one",
        )


class Pages(TestCase):
    def test_an_unknown_address_and_a_stale_form_are_said_kindly(self):
        self.assertContains(Client().get("/shop/nowhere/"), "Nothing is at this address", status_code=404)
        strict = Client(enforce_csrf_checks=True)
        self.assertContains(strict.post("/people/sign-in/", {"username": "x"}), "load the page again", status_code=403)


class AddingPeople(TestCase):
    def test_with_roles_and_a_password_worth_the_name(self):
        command = "stations.people.management.commands.add_person.getpass"
        with mock.patch(command, return_value="12345"), self.assertRaisesRegex(CommandError, "too short"):
            call_command("add_person", "kim", "--role", "seller")
        with mock.patch(command, return_value="quite-a-long-one"):
            call_command("add_person", "kim", "--role", "seller", stdout=StringIO())
        self.assertEqual(Person.objects.get().role_names, {"seller"})
