"""What other programs read, against the published forms of it.

OpenAPI Specification 3.1 (OpenAPI Initiative), by `openapi-spec-validator`; every answer against the schema in that
file, JSON Schema draft 2020-12 (which OpenAPI 3.1 takes over whole), by `jsonschema`; problems as RFC 9457, section 3.
"""

import json
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.test import TestCase
from jsonschema import Draft202012Validator
from openapi_spec_validator import OpenAPIV31SpecValidator

from stations.api.urls import api
from stations.common import clock
from stations.people import tokens
from stations.people.models import PersonRole, Role
from stations.people.tokens import NewToken
from tests import demo_shop

KEPT = settings.ROOT / "docs" / "openapi.json"


class OpenApi(TestCase):
    @classmethod
    def setUpTestData(cls):
        demo_shop.put_up()
        cls.runa = PersonRole.objects.filter(role=Role.OWNER).first().person
        cls.file = json.loads(json.dumps(api.get_openapi_schema(path_prefix="api/v1/")))

    def setUp(self):
        self.secret = tokens.new_token(self.runa, NewToken("a checker", None))
        self.enterContext(clock.at(clock.now() + timedelta(hours=1)))

    def read(self, address: str, secret: str | None = None):
        return self.client.get(address, headers={"Authorization": f"Bearer {secret or self.secret}"})

    def expect_as_described(self, path: str, answer) -> dict[str, Any]:
        """The answer, which has the form that the file gives for its status at this path."""
        described = self.file["paths"][path]["get"]["responses"][str(answer.status_code)]
        self.assertIn(answer["Content-Type"].partition(";")[0], described["content"])
        (schema,) = (content["schema"] for content in described["content"].values())
        whole = schema | {"components": self.file["components"]}
        told = answer.json()
        problems = list(
            Draft202012Validator(whole, format_checker=Draft202012Validator.FORMAT_CHECKER).iter_errors(told)
        )
        self.assertEqual([f"{problem.json_path}: {problem.message}" for problem in problems], [])
        # Nothing is told that the file does not speak of.
        self.assertNotIn("additionalProperties", json.dumps(schema))
        return told

    def test_a_schema_checker_accepts_the_file(self):
        OpenAPIV31SpecValidator(self.file).validate()
        broken = json.loads(json.dumps(self.file))
        del broken["info"]["title"]
        self.assertTrue(list(OpenAPIV31SpecValidator(broken).iter_errors()))

    def test_the_file_in_the_docs_is_the_one_that_is_served(self):
        self.client.force_login(self.runa, "django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.get("/api/v1/openapi.json").json(), self.file)
        self.assertEqual(
            json.loads(KEPT.read_text()), self.file, "write it anew: bin/manage describe_api docs/openapi.json"
        )

    def test_every_answer_is_as_the_file_says(self):
        seen = set()
        for path in ("/api/v1/units", "/api/v1/lots", "/api/v1/stock", "/api/v1/ledger"):
            address: str | None = f"{path}?limit=60"
            while address:
                told = self.expect_as_described(path, self.read(address))
                self.assertTrue(told["items"])
                for row in told["items"]:
                    seen |= {f"{path} {name}" for name, value in row.items() if value not in (None, [])}
                address = told["next"]
            self.expect_as_described(path, self.read(f"{path}?limit=x"))
            self.expect_as_described(path, self.read(path, "none"))
        for path, address in (
            ("/api/v1/units/{tag}", "/api/v1/units/W-136"),
            ("/api/v1/units/{tag}", "/api/v1/units/x"),
            ("/api/v1/lots/L-{number}", "/api/v1/lots/L-007"),
            ("/api/v1/lots/L-{number}", "/api/v1/lots/L-999"),
        ):
            self.expect_as_described(path, self.read(address))
        self.assertGreater(len(seen), 70, "the demo shop has something to tell of almost everything")

    def test_too_often_is_told_as_the_file_says(self):
        while (answer := self.read("/api/v1/lots?limit=1")).status_code == 200:
            pass
        told = self.expect_as_described("/api/v1/lots", answer)
        self.assertEqual((told["status"], told["title"]), (429, "Too Many Requests"))

    def test_problems_are_those_of_rfc_9457(self):
        answer = self.read("/api/v1/units?stage=nowhere")
        self.assertEqual(answer["Content-Type"], "application/problem+json")
        told = answer.json()
        self.assertEqual((told["type"], told["status"]), ("about:blank", 422))
