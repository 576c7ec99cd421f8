"""Every address by every kind of visitor: who gets in, and does anything change that may not?"""

import random
import re
from collections import Counter

from benchmarks.fuzz import THE_DOOR, filled
from benchmarks.instance import Instance, Visitor, a_shop, crawl

ROLES = ("buyer", "technician", "seller", "viewer")
OPEN = ("/shop/", "/people/sign-in/", "/people/begin/", "/intake/photos/")
# How many rows every table has; whoever may change nothing must leave all of them as they were.
ROWS = """
from django.apps import apps
print({m._meta.label: m._base_manager.count() for m in apps.get_models() if m.__module__.startswith("stations.")})
"""


def begin(shop: Instance, owner: Visitor, role: str) -> Visitor:
    """Somebody new, added by the owner and begun at the one-time address."""
    owner.get("/people/add/")
    made = owner.post("/people/add/", {"write_key": "", "first_name": role, "username": role, "roles": [role]})
    found = re.search(r'value="http://[^/]+(/people/begin/[^"]+)"', owner.get(made.leads_to).text)
    if found is None:
        raise SystemExit(f"no one-time address for a {role}")
    visitor = Visitor(shop.url)
    page = visitor.get(visitor.get(found[1]).leads_to or found[1])
    password = "halyard-and-cleat"  # noqa: S105 - of a shop that is thrown away
    names = {"username": role, "first_name": role, "new_password1": password, "new_password2": password}
    answer = visitor.post(f"{found[1].rsplit('/', 2)[0]}/set-password/", names)
    if page.status != 200 or answer.status != 302:
        raise SystemExit(f"a {role} could not begin: {page.status}, {answer.status}")
    return visitor


def run(count: int, port: int) -> None:
    """`count` rounds of posting every form with other choices."""
    chance = random.Random(1)
    with a_shop(port, "doors") as shop:
        owner = Visitor(shop.url).sign_in("runa")
        visitors = {"stranger": Visitor(shop.url)} | {role: begin(shop, owner, role) for role in ROLES}
        visitors["stranger"].get("/people/sign-in/")
        pages, forms = crawl(owner, each=3)
        forms = [form for form in forms if form.posts and not form.action.startswith(THE_DOOR)]
        print(f"{len(pages)} addresses and {len(forms)} forms")
        wrong = []
        for role, visitor in visitors.items():
            before = shop.manage("shell", "-v", "0", "-c", ROWS)
            got = Counter(visitor.get(page).status for page in pages)
            sent: Counter[int] = Counter()
            for form in forms * count:
                answer = visitor.post(form.action, filled(form, chance))
                sent[answer.status] += 1
                inside = answer.status != 302 or "/people/sign-in/" not in answer.leads_to
                if role == "stranger" and inside and not form.action.startswith(OPEN):
                    wrong.append(f"a stranger was answered {answer.status} at {form.action}")
            same = shop.manage("shell", "-v", "0", "-c", ROWS) == before
            print(f"{role:10s} read {dict(got)}, sent {dict(sent)}; rows {'as they were' if same else 'changed'}")
            if not same and role in {"stranger", "viewer"}:
                wrong.append(f"a {role} changed rows")
            if any(status >= 500 for status in {*got, *sent}):
                wrong.append(f"a {role} met a server error")
        print("\n".join(wrong) or "nobody did what they may not")
        if wrong:
            raise SystemExit(1)
