"""Two and more requests at the same moment: is any answer a server error, and is anything done twice?"""

import random
import uuid
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

from benchmarks.fuzz import at_the_door, filled
from benchmarks.instance import Answer, Form, Visitor, a_shop, crawl

KINDS = ("pressed twice", "by two people", "two forms of one unit", "two units by one person", "by eight")
PEOPLE = ("runa", "tobin", "runa", "tobin", "runa", "tobin", "runa", "tobin")


class Races:
    def __init__(self, url: str, seed: int, each: int = 3) -> None:
        self.each = each
        self.chance = random.Random(seed)
        self.visitors = [Visitor(url).sign_in(name) for name in PEOPLE]
        self.pool = ThreadPoolExecutor(len(PEOPLE))
        self.broken: list[str] = []
        self.twice = 0
        self.statuses: Counter[int] = Counter()
        self.look()

    def look(self) -> None:
        """The forms that write, as they now stand, and those of each unit by its number."""
        forms = crawl(self.visitors[0], self.each)[1]
        self.forms = [form for form in forms if form.posts and not at_the_door(form) and not form.files]
        self.of_unit: dict[str, list[Form]] = {}
        for form in self.forms:
            if "/W-" in form.action:
                self.of_unit.setdefault(form.action.split("/W-")[1].split("/")[0], []).append(form)

    def one(self, kind: str) -> None:
        first = self.chance.choice(self.forms)
        sent = self.sent(first)
        if kind == "pressed twice":
            starts = [(0, first, sent), (0, first, sent)]
        elif kind == "by two people":
            starts = [(0, first, sent), (1, first, self.sent(first))]
        elif kind == "by eight":
            starts = [(who, first, self.sent(first)) for who in range(8)]
        else:
            units = self.chance.sample(list(self.of_unit), 2)
            if kind == "two forms of one unit":
                units[1] = units[0]
            forms = [self.chance.choice(self.of_unit[unit]) for unit in units]
            starts = [(place if units[0] == units[1] else 0, form, self.sent(form)) for place, form in enumerate(forms)]
        answers = self.together(starts)
        for (_, form, _), answer in zip(starts, answers, strict=True):
            self.statuses[answer.status] += 1
            if answer.status >= 500:
                self.broken.append(f"{answer.status} {kind}: {form.action}")
        if kind == "pressed twice" and {a.status for a in answers} == {302} and len({a.leads_to for a in answers}) > 1:
            self.twice += 1
            self.broken.append(f"done twice: {first.action} {[a.leads_to for a in answers]}")

    def sent(self, form: Form) -> dict[str, str | list[str]]:
        return filled(form, self.chance) | {"write_key": uuid.uuid4().hex}

    def together(self, starts: list[tuple[int, Form, dict]]) -> list[Answer]:
        barrier = Barrier(len(starts))

        def go(start: tuple[int, Form, dict]) -> Answer:
            who, form, sent = start
            barrier.wait(30)
            return self.visitors[who].post(form.action, sent)

        return list(self.pool.map(go, starts))


def run(count: int, port: int, seed: int = 1) -> None:
    with a_shop(port, "races") as shop:
        races = Races(shop.url, seed)
        for number in range(count):
            races.one(KINDS[number % len(KINDS)])
            if number % 1000 == 999:
                races.look()
        for words in races.broken:
            print(words)
        errors = sum(number for status, number in races.statuses.items() if status >= 500)
        print(
            f"{count} races, {sum(races.statuses.values())} requests: {errors} server errors, {races.twice} done twice"
        )
        print(dict(sorted(races.statuses.items())))
        print(shop.manage("check_books"))
        print(shop.manage("rebuild_stages", "--check"))
        if errors or races.twice:
            raise SystemExit(1)
