"""Every address of the application, found in its own table of addresses, against people who send it nonsense."""

import re
from collections import Counter, defaultdict
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch
from urllib.parse import urlencode

from axes.models import AccessAttempt
from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.forms import BaseForm, ModelForm
from django.test import TestCase, modify_settings
from django.urls import URLPattern, get_resolver
from lxml import html

from stations.buying.models import BidPlan, Lot
from stations.common import clock
from stations.common.forms import SeenForm, VersionedForm
from stations.people.models import Person, PersonRole, Role
from stations.units.models import Unit
from tests import demo_shop

# Open to everybody: the door, and the public shop; to programs that show a token, what they read.
OPEN = (
    "people/sign-in/",
    "people/sign-out/",
    "people/begin/",
    "shop/",
    "robots.txt",
    "day/calendar/",
    "away.js",
    "manifest.webmanifest",
    "api/v1/",
)
# Words that fill a slug, so that each address leads somewhere real.
WORDS = {
    "code": "fn-ports",
    "what": "park",
    "size": "small",
    "action": "x",
    "form": "json",
    "basis": "value",
    "name": "bands",
}
# What everybody may: for oneself, or only to see what it would be.
HARMLESS = re.compile(r"^/people/sign-out/$|/drawn/$")
NONSENSE = (
    "",
    "\x00☃\u202e" * 40,
    "-1",
    "1e309",
    "NaN",
    "99999999999999999999",
    "2026-02-31",
    "<script>alert(1)</script>",
    "'; --",
    "x" * 5000,
    "//evil.example/",
)
FIGURES = {"-1", "99999999999999999999"}

# A page that asks the same so many times, each time for another thing, asks for each of its rows.
ONE_BY_ONE = 4

# Said by Django of what is wrong in a form, and of a constraint by its name.
NOT_OURS = re.compile(
    rb"is violated|This (?:field|value|list) |Ensure |Enter a |Select a valid|not a valid|Null char|ManagementForm"
    rb"|Please (?:submit|either)|submitted|Upload a |already exists"
)


def offers(page: bytes) -> Iterator[str]:
    """Where what a page offers is sent: forms and buttons that are not shut."""
    if not page.strip():
        return
    whole = html.fromstring(page)
    for form in whole.xpath('//form[@method="post" or @hx-post]'):
        controls = form.xpath('.//button|.//input[not(@type="hidden")]|.//select|.//textarea')
        where = form.get("action") or form.get("hx-post") or "itself"
        if not HARMLESS.search(where) and any(
            not control.xpath("ancestor::fieldset[@disabled]") for control in controls
        ):
            yield where
    buttons = whole.xpath("//*[@hx-post and not(self::form) and not(ancestor::fieldset[@disabled])]/@hx-post")
    yield from (where for where in buttons if not HARMLESS.search(where))


class Asked:
    """Each statement that the database was asked, whatever the length of its lists, with all that was put into it."""

    def __init__(self) -> None:
        self.by_statement: dict[str, set[str]] = defaultdict(set)

    def __call__(self, execute, sql, params, many, context):
        self.by_statement[re.sub(r"IN \([^)]*\)", "IN ()", sql)].add(repr(params))
        return execute(sql, params, many, context)

    @property
    def again_and_again(self) -> list[str]:
        return [sql for sql, with_what in self.by_statement.items() if len(with_what) >= ONE_BY_ONE]


class Noted:
    """What was sent, and the names that a page asked for: `*` where it looked at all of them."""

    def __init__(self, sent, names: set[str]) -> None:
        self.sent, self.names = sent, names

    def __getitem__(self, name):
        self.names.add(name)
        return self.sent[name]

    def __contains__(self, name) -> bool:
        self.names.add(name)
        return name in self.sent

    def get(self, name, default=None):
        self.names.add(name)
        return self.sent.get(name, default)

    def getlist(self, name, default=None):
        self.names.add(name)
        return self.sent.getlist(name, default)

    def __bool__(self) -> bool:
        return bool(self.sent)

    def __iter__(self):
        self.names.add("*")
        return iter(self.sent)

    def __getattr__(self, what: str):
        self.names.add("*")
        return getattr(self.sent, what)


def noting(get_response):
    """Innermost of all: each answer says by itself which names its page asked for, of its address and of its form."""

    def respond(request):
        asked, posted = set(), set()
        request.GET = Noted(request.GET, asked)
        if request.method == "POST":
            request.POST = Noted(request.POST, posted)
        answer = get_response(request)
        answer.asked, answer.posted = asked, posted - {"write_key", "csrfmiddlewaretoken"}
        return answer

    return respond


LEADS = ("for", "form", "list", "headers", "aria-labelledby", "aria-describedby", "aria-controls")


def astray(page: bytes) -> set[str]:
    """What no label, note or mistake of a whole page can be told apart by: an id that stands there twice, one that is
    led to and is nowhere; and notes and mistakes beside a field that does not lead to them."""
    if not page.lstrip().lower().startswith(b"<!doctype"):
        return set()
    whole = html.fromstring(page)
    ids = Counter(whole.xpath("//@id"))
    found = {f"{name} twice" for name, times in ids.items() if times > 1}
    led_to = [name for lead in LEADS for names in whole.xpath(f"//@{lead}") for name in names.split()]
    led_to += [link[1:] for link in whole.xpath("//a/@href") if link[:1] == "#" and link != "#"]
    found |= {f"{name} nowhere" for name in led_to if name not in ids}
    described = {name for names in whole.xpath("//@aria-describedby") for name in names.split()}
    in_field = '//*[contains(concat(" ", @class, " "), " field ")]'
    for said in whole.xpath(f'{in_field}//*[contains(@class, "field__note") or contains(@class, "field__error")]'):
        if not {said.get("id"), said.getparent().get("id")} & described:
            found.add(f"“{said.text_content().strip()}” at no field")
    return found


def routes(patterns=None, before: str = "") -> list[str]:
    """Every route there is, without those that only serve files."""
    found = []
    for pattern in get_resolver().url_patterns if patterns is None else patterns:
        route = before + str(pattern.pattern)
        if isinstance(pattern, URLPattern):
            found.append(route)
        else:
            found += routes(pattern.url_patterns, route)
    return [route for route in found if "(?P" not in route and not route.startswith("static")]


def unmarked(answer, page: str) -> Iterator[BaseForm]:
    """Forms of a page on a row that is there already, which send no mark of what they showed."""
    parts = [layer for part in answer.context or () for layer in getattr(part, "dicts", [part])]
    values = [value for layer in parts for value in layer.values()]
    for form in {id(value): value for value in values if isinstance(value, BaseForm)}.values():
        if not any(f'id="{field.id_for_label}"' in page for field in form.visible_fields()):
            continue
        if isinstance(form, SeenForm):
            marked = not form.about or form.seen in page
        elif isinstance(form, ModelForm) and form.instance.pk:
            marked = isinstance(form, VersionedForm) and str(form["version"]) in page
        else:
            marked = True
        if not marked:
            yield form


@modify_settings(MIDDLEWARE={"append": f"{__name__}.noting"})
class EveryAddress(TestCase):
    takes = 400

    @classmethod
    def setUpTestData(cls):
        demo_shop.put_up()
        cls.owner = PersonRole.objects.filter(role=Role.OWNER).first().person
        cls.viewer = Person.objects.create_user("viv")
        PersonRole.objects.create(person=cls.viewer, role=Role.VIEWER)
        cls.addresses = [address for route in routes() for address in cls.filled(route)]
        cls.for_programs = {one for one in cls.addresses if re.match("/api/v1/[a-z]+(/|$)", one)}
        # Who signs out tries nothing after it.
        cls.signed_in = [address for address in cls.addresses if address != "/people/sign-out/"]
        cls.before = cls.counts()
        cls.looked = cls.looked_at()
        cls.after = cls.counts()

    @classmethod
    def filled(cls, route: str) -> list[str]:
        """The route with numbers and words of the demo shop: for units, one of four stages."""
        if "P-<" in route:
            numbers = list(BidPlan.objects.values_list("number", flat=True))[:2]
        elif "L-<" in route:
            numbers = list(Lot.objects.values_list("number", flat=True))[:2]
        else:
            by_stage = dict(Unit.objects.order_by("number").values_list("stage", "number"))
            numbers = [by_stage[stage] for stage in ("received", "on_bench", "graded", "sold")]
        made = []
        for number in numbers if "<int:number>" in route else [0]:
            one = route.replace("<int:number>", str(number))
            one = re.sub(r"<int:\w+>", "1", one).replace("<day:day>", f"{clock.today()}")
            made.append("/" + re.sub(r"<(?:slug|str):(\w+)>", lambda word: WORDS.get(word[1], "x"), one))
        return made

    @classmethod
    def looked_at(cls) -> dict[str, int]:
        """The status of every address; `names` becomes every name that any form of any page sends."""
        client = cls.client_class()
        client.force_login(cls.owner, backend="django.contrib.auth.backends.ModelBackend")
        # The first look of a day brings up to date what waited for it.
        client.get("/")
        names: set[str] = set()
        statuses, cls.asked, cls.unmarked, cls.empty = {}, {}, set(), []
        cls.one_by_one, cls.astray = {}, {}
        for address in cls.addresses:
            asked = Asked()
            with connection.execute_wrapper(asked):
                answer = client.get(address)
            if again := asked.again_and_again:
                cls.one_by_one[address] = again
            statuses[address], cls.asked[address] = answer.status_code, answer.asked
            if answer.status_code == 405 and answer["Content-Length"] == "0":
                cls.empty.append(address)
            if answer.status_code == 200 and not answer.streaming and "html" in answer["Content-Type"]:
                page = answer.content.decode()
                if lost := astray(answer.content):
                    cls.astray[address] = lost
                names |= set(re.findall(r'name="([\w-]+)"', page))
                cls.unmarked |= {f"{address}: {type(form).__name__}" for form in unmarked(answer, page)}
        cls.names = sorted(names - {"csrfmiddlewaretoken", "viewport", "write_key"})
        return statuses

    def expect_answered(self, answer) -> None:
        """In whatever way, but not by showing the door: then nothing would have been tried."""
        self.assertLess(answer.status_code, 500)
        self.assertNotIn("/people/sign-in/", answer.get("Location", ""))
        if not answer.streaming:
            self.assertNotRegex(answer.content, NOT_OURS, "not in our words")

    def sign_in(self, who: Person) -> None:
        self.client.force_login(who, backend="django.contrib.auth.backends.ModelBackend")

    @classmethod
    @cache
    def everything(cls, value: str) -> str:
        return urlencode(dict.fromkeys(cls.names, value))

    def send(self, address: str, value: str, **headers: str):
        """Every name there is, with this value, as a plain form sends it; wrong passwords of before are not counted, so
        that each is looked at."""
        AccessAttempt.objects.all().delete()
        form = "application/x-www-form-urlencoded"
        return self.client.post(address, self.everything(value), content_type=form, **headers)

    @classmethod
    def counts(cls) -> dict[str, int]:
        """Rows of every table of the shop."""
        ours = [m for m in apps.get_models() if m.__module__.startswith("stations.")]
        return {m._meta.label: m.objects.count() for m in ours}

    def test_there_are_as_many_as_we_think(self):
        self.assertGreater(len(routes()), 90)
        self.assertGreater(len(self.names), 120)

    def test_every_form_on_what_is_there_says_what_it_showed(self):
        """Else two people who have it open write over each other unseen."""
        self.assertEqual(self.unmarked, set())

    def test_looking_changes_nothing(self):
        self.assertGreater(len(self.looked), 300)
        for address, status in self.looked.items():
            with self.subTest(address):
                self.assertIn(status, {401} if address in self.for_programs else {200, 302, 404, 405})
        self.assertEqual(self.empty, [], "whoever opens it sees nothing")
        self.assertEqual(self.after, self.before)

    def test_no_page_asks_for_its_rows_one_by_one(self):
        self.assertEqual(self.one_by_one, {})

    def test_labels_notes_and_mistakes_belong_to_one_field(self):
        self.assertEqual(self.astray, {})

    def test_nobody_gets_in_without_signing_in(self):
        before = self.counts()
        for address in self.addresses:
            if address[1:].startswith(OPEN) or re.match(r"/intake/photos/\d+/small/", address):
                continue
            for answer in (self.client.get(address), self.client.post(address, {"words": "x"})):
                with self.subTest(address):
                    self.assertEqual(answer.status_code, 302)
                    self.assertIn("/people/sign-in/", answer["Location"])
        self.assertEqual(self.counts(), before)

    def test_nonsense_in_every_field_is_answered_in_words(self):
        self.sign_in(self.owner)
        deaf = set()
        for turn, nonsense in enumerate(NONSENSE):
            # Figures that can’t be are tried everywhere, all else by turns.
            for address in self.signed_in if nonsense in FIGURES else self.signed_in[turn % 3 :: 3]:
                with self.subTest(address, nonsense=nonsense[:20]):
                    # Where nothing that is sent is looked at, another value of it makes no difference.
                    if address not in deaf:
                        answer = self.send(address, nonsense, HTTP_REFERER="https://evil.example/")
                        self.expect_answered(answer)
                        self.assertNotIn("//evil", answer.get("Location", "").partition("?")[0])
                        if not answer.posted:
                            deaf.add(address)
                        if nonsense == "-1" and not answer.streaming:
                            self.assertEqual(astray(answer.content), set())
                    if asked := self.asked[address] - {"*"}:
                        answer = self.client.get(address, dict.fromkeys(asked, nonsense))
                        self.expect_answered(answer)

    def test_a_file_where_none_belongs(self):
        self.sign_in(self.owner)
        for address in self.signed_in:
            names = ("file", "photos", "picture", "manifest", "record")
            sent = {name: SimpleUploadedFile("x.csv", b"\xff\xfe\x00,;\n" * 50) for name in names}
            with self.subTest(address):
                self.expect_answered(self.client.post(address, sent))

    def test_nobody_is_offered_what_would_be_refused(self):
        """A viewer, who may change nothing, finds no form that can be typed into and sent."""
        self.sign_in(self.viewer)
        offered = set()
        for address in self.addresses:
            if self.looked[address] != 200 or address.startswith(("/people/", "/shop/")):
                continue
            answer = self.client.get(address)
            if answer.status_code == 200 and not answer.streaming and "html" in answer["Content-Type"]:
                offered |= {f"{address}: {form}" for form in offers(answer.content)}
        self.assertEqual(offered, set())

    def test_only_a_technician_commands_instruments(self):
        for role in (Role.BUYER, Role.SELLER):
            somebody = Person.objects.create_user(role)
            PersonRole.objects.create(person=somebody, role=role)
            self.sign_in(somebody)
            with TemporaryDirectory() as folder, self.settings(LABEL_PRINTER=folder):
                with patch("stations.bench.instruments.ask", return_value="0") as asked:
                    for address in self.addresses:
                        if address.startswith("/bench/"):
                            self.send(address, "1")
                            self.client.get(address, {"look": "yes"})
                asked.assert_not_called()

    def test_a_viewer_changes_nothing_anywhere_nor_commands_anything(self):
        """Neither a row, nor an instrument on the bench, nor the label printer."""
        self.sign_in(self.viewer)
        before = self.counts()
        with (
            TemporaryDirectory() as folder,
            self.settings(LABEL_PRINTER=folder),
            patch("stations.bench.instruments.ask", return_value="0") as asked,
        ):
            for address in self.addresses:
                if address.startswith("/people/"):
                    continue
                with self.subTest(address):
                    if "look" in self.asked[address]:
                        self.client.get(address, {"look": "yes"})
                    for value in ("1", "park", "fn-ports"):
                        answer = self.send(address, value)
                        self.expect_answered(answer)
                        if not answer.posted:
                            break
            self.assertEqual(list(Path(folder).iterdir()), [])
        asked.assert_not_called()
        self.assertEqual(self.counts(), before)
