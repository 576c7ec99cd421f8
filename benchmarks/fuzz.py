"""Nonsense in every field of every form, by people of every role, with odd files: is any answer a server error?"""

import json
import random
import re
import threading
from collections import Counter
from urllib.parse import urlencode

from benchmarks.instance import FORM, Answer, Form, Visitor, a_shop, crawl


def long_word(length: int) -> str:
    """With a mark at both ends, so that it can be seen whether it was kept whole."""
    return f"⟦{'é☃x🖥'[length % 4] * (length - 2)}⟧"


# Reads every text that is stored, and says which begin with the first mark and lack the last, unseen.
CUT = """
from django.apps import apps
for model in apps.get_models():
    if model.__name__ == "WriteKey":
        continue  # nobody types these
    for field in model._meta.fields:
        if field.get_internal_type() in ("CharField", "TextField"):
            rows = model._base_manager.filter(**{field.name + "__contains": "⟦"})
            for words in rows.values_list(field.name, flat=True):
                if words.count("⟦") != words.count("⟧") and not words.endswith("…"):
                    print(model.__name__, field.name, len(words))
"""
NONSENSE = [
    *("", " ", "\t\n", "0", "-1", "-0", "1", "2", "99999", "2147483648", "99999999", "99999999999999999999"),
    *("1e400", "1e309", "-1e400", "1e-400", "NaN", "Infinity", "-inf", "0x10", "1_000", "٣٤", "½", "1,5", "1.5"),
    *("1.234", "1,234.50", "9" * 5000, "2026-02-31", "0000-00-00", "9999-12-31", "10000-01-01", "0001-01-01"),
    *("1969-12-31", "25:61", "on", "None", "null", "true", "[]", "{}", '{"a": 1}', "[" * 3000, "%", "%00", "%s%n"),
    *("<script>alert(1)</script>", "'; DROP TABLE x; --", "../../etc/passwd", "\x00", "a\x00b", "\ud800", "\udfff"),
    *("\u202eabc", "\u200b", "\ufeff", "y" * 70000, "a,b;c|d", "=1+1", "@SUM(A1)", "-cmd", "_", "\\", "W-999"),
    *(long_word(length) for length in (41, 61, 81, 121, 161, 201, 256, 301, 401, 501, 1001, 5000)),
    *(
        "//evil.example/",
        "https://evil.example/",
        "javascript:alert(1)",
        "front",
        "park",
        "sold",
        "machine",
        "EUR",
        "eur",
    ),
]
FILES = [
    ("x.csv", b""),
    ("x.csv", b"\xff\xfe\x00,;\n" * 50),
    ("x.csv", b"a,b\n1"),
    ("x.csv", b"maker,model,weight_kg\nHalden,M2,99999\nHalden,M3,-1\nHalden,M4,1e400\n"),
    ("x.csv", b"description,quantity\n" + b"thing,1\n" * 4000),
    ("x.csv", b"," * 100000),
    ("x.csv", b'"' + b"x" * 200000),
    ("x.json", b"[" * 20000),
    ("x.json", b'{"a": ' * 3000),
    ("x.json", b'[{"maker": "\\ud800", "name": "A"}]'),
    ("x.json", b'{"weight": ' + b"9" * 6000 + b"}"),
    ("x.json", b'{"weight": NaN}'),
    ("x.json", b"null"),
    ("x.png", b"\x89PNG\r\n\x1a\n" + b"\x00" * 100),
    ("x.jpg", b"\xff\xd8\xff\xe0" + b"\x00" * 2000),
    ("x.gif", b"GIF89a\xff\xff\xff\xff\x00\x00\x00"),
    ("x.wav", b"RIFF\xff\xff\xff\xffWAVEfmt " + b"\x00" * 40),
    ("x.mp3", b"ID3" + b"\xff" * 500),
    ("\u202egnp.exe", b"MZ" + b"\x00" * 100),
    ("../../x.csv", b"a,b\n"),
]
# Two owners, since they may do most; then a technician, a viewer, and somebody who has not signed in.
VISITORS = ("runa", "runa", "tobin", "vera", "")
GROWING = {"version", "write_key"}  # told apart: a stale one is refused by design, so it is mostly left alone
_THE_DOOR = re.compile(r"/people/(sign-out|password|\d+)/")


def at_the_door(form: Form) -> bool:
    """Whether it can shut somebody out, or give them another name to sign in with: that would end the attack."""
    return bool(_THE_DOOR.match(form.action))


def filled(form: Form, chance: random.Random) -> dict[str, str | list[str]]:
    """As a person would send it: what stands in it, and a choice where one is to be made."""
    sent: dict[str, str | list[str]] = {name: list(values) for name, values in form.fields.items()}
    for name, choices in form.choices.items():
        if choices and (name not in sent or chance.random() < 0.3):
            sent[name] = chance.choice(choices)
    for name, value in sent.items():
        if value in ("", [""]) and chance.random() < 0.6:
            sent[name] = chance.choice(["7", "12.5", "2026-11-20", "clean", "shelf K"])
    return sent


def spoiled(form: Form, chance: random.Random) -> dict[str, str | list[str]]:
    sent = filled(form, chance)
    names = [name for name in sent if name not in GROWING or chance.random() < 0.05]
    for name in chance.sample(names, min(len(names), chance.choice([1, 1, 2, 3, len(names)]))):
        turn = chance.random()
        if turn < 0.05:
            del sent[name]
        elif turn < 0.1:
            sent[name] = [chance.choice(NONSENSE) for _ in range(chance.choice([2, 40]))]
        else:
            sent[name] = chance.choice(NONSENSE)
    return sent


def spoil(value, chance: random.Random):
    """A record of ours with one leaf of it turned into something else."""
    if isinstance(value, dict) and value:
        name = chance.choice(list(value))
        turn = chance.random()
        if turn < 0.05:
            return {other: each for other, each in value.items() if other != name}
        if turn < 0.1:
            return value | {chance.choice(NONSENSE)[:50]: 1}
        return value | {name: spoil(value[name], chance)}
    if isinstance(value, list) and value:
        place = chance.randrange(len(value))
        turn = chance.random()
        if turn < 0.1:
            return [*value, value[place]]
        return [*value[:place], spoil(value[place], chance), *value[place + 1 :]]
    return chance.choice([*NONSENSE, None, True, -5, 99999, 10**30, 1e308, -0.0, [], {}, float("nan"), float("inf")])


def send_record(visitor: Visitor, chance: random.Random) -> tuple[str, Answer]:
    """What our own exports say, spoiled at one place, into the importers."""
    if chance.random() < 0.5:
        where, came = "/intake/models/import/", "/intake/models.json"
    else:
        where, came = (
            f"/intake/lines/{chance.randint(1, 30)}/record/",
            f"/intake/W-{chance.randint(101, 130)}/record.json",
        )
    answer = visitor.get(came)
    if answer.status != 200:
        return f"GET {came}", answer
    found = spoil(json.loads(answer.text), chance)
    visitor.get("/intake/models/")
    sent = visitor.post(where, {"write_key": ""}, {"file": ("x.json", json.dumps(found).encode())})
    return f"POST {where} spoiled {came}", sent


def send(visitor: Visitor, form: Form, chance: random.Random) -> tuple[str, Answer]:
    """One request; what was sent in short, and the answer."""
    sent = spoiled(form, chance)
    if not form.posts:
        query = urlencode(sent, doseq=True, errors="surrogatepass")[:3500]
        return f"GET {form.action}?{query}", visitor.get(f"{form.action.split('?')[0]}?{query}")
    if chance.random() < 0.02:
        body = "&".join(f"{name}=1" for name in sent).encode("utf-16")
        return f"utf-16 {form.action}", visitor.ask(form.action, body, f"{FORM}; charset=utf-16")
    files = {name: chance.choice(FILES) for name in form.files}
    if not files and chance.random() < 0.03:
        files = {chance.choice(list(sent) or ["file"]): chance.choice(FILES)}
    short = {name: str(value)[:80] for name, value in sent.items()}
    kinds = {name: file[0] + str(file[1][:20]) for name, file in files.items()}
    return f"POST {form.action} {short} {kinds}", visitor.post(form.action, sent, files or None)


class Fuzz:
    """`count` requests by several visitors at once; the forms are read again now and then, since pages change."""

    def __init__(self, url: str, count: int, seed: int, each: int = 4) -> None:
        self.url, self.turns, self.seed, self.each = url, count // len(VISITORS), seed, each
        self.statuses: Counter[int] = Counter()
        self.broken: list[str] = []
        self.turned_away = 0
        self.lock = threading.Lock()

    def visit(self, name: str, number: int) -> None:
        chance = random.Random(self.seed * 100 + number)
        visitor = Visitor(self.url)
        visitor.get("/people/sign-in/")
        if name:
            visitor.sign_in(name)
        for turn in range(1, self.turns + 1):
            if name and chance.random() < 0.08:
                said, answer = send_record(visitor, chance)
            else:
                said, answer = send(visitor, chance.choice(self.forms), chance)
            with self.lock:
                self.statuses[answer.status] += 1
                self.turned_away += name != "" and "/people/sign-in/" in answer.leads_to
                if answer.status >= 500:
                    self.broken.append(f"{answer.status} {name or 'a stranger'} {said}")
            if turn % 400 == 0 and name:
                visitor.sign_in(name)
                if number == 0:
                    self.look(visitor)

    def look(self, owner: Visitor, forms: list[Form] | None = None) -> None:
        """Every form that an owner finds, unless they are known already; the others send the same."""
        found = crawl(owner, self.each)[1] if forms is None else forms
        self.forms = [form for form in found if not at_the_door(form)]

    def run(self, forms: list[Form] | None = None) -> None:
        self.look(Visitor(self.url).sign_in("runa"), forms)
        threads = [threading.Thread(target=self.visit, args=pair[::-1]) for pair in enumerate(VISITORS)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()


def run(count: int, port: int, seed: int = 1) -> None:
    with a_shop(port, "fuzz") as shop:
        fuzz = Fuzz(shop.url, count, seed)
        fuzz.run()
        for words in fuzz.broken:
            print(words[:1500])
        errors = sum(number for status, number in fuzz.statuses.items() if status >= 500)
        print(f"{sum(fuzz.statuses.values())} requests: {errors} server errors; {dict(sorted(fuzz.statuses.items()))}")
        print(f"{fuzz.turned_away} of those who had signed in were sent to the door")
        print(shop.manage("check_books"))
        cut = shop.manage("shell", "-v", "0", "-c", CUT)
        print(f"stored and cut without a word: {cut or 'nothing'}")
        if errors or cut:
            raise SystemExit(1)
