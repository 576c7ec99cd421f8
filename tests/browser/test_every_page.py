"""Every page of the demo shop: axe-core finds nothing, nothing scrolls sideways, at desk and phone width, however long
a word somebody typed is; words on drawings can be read."""

from collections import deque
from urllib.parse import urlsplit

from django.db.models import CharField, TextField, Value
from django.db.models.functions import Concat, Left
from django.urls import Resolver404, resolve, reverse

from stations.bench.models import FaultCase, PowerStop
from stations.buying.models import BidPlan, Lot, LotLine, PlanLine, Supplier
from stations.catalogue.models import MachineModel
from stations.dispatch.models import Return
from stations.floor.pages import PAGES as CHOSEN_WITHOUT_A_THING
from stations.intake import settling
from stations.people.models import HistoryEntry
from stations.selling.models import Channel, Listing, Offer, Question, Sale
from stations.stock.models import KnownGood, PartSeller, StockItem
from stations.units.models import DrawerReceipt, Finding, Unit
from stations.workshop.models import Job, Reservation
from tests import demo_shop
from tests.browser.base import AXE, DESK, PHONE, BrowserTest

PAGES = (
    "/",
    "/find/?q=halden",
    "/find/?q=zzzz",
    "/keys/",
    "/people/me/",
    "/people/settings/",
    "/buying/",
    "/buying/new/",
    "/buying/plans/",
    "/buying/suppliers/",
    "/buying/odds/",
    "/buying/rates/",
    "/buying/plans/P-2/manifest/",
    "/buying/plans/new/",
    "/buying/plans/P-1/",
    "/buying/plans/P-2/",
    "/buying/plans/P-4/",
    "/buying/plans/P-2/terms/",
    "/buying/L-3/",
    "/buying/L-6/",
    "/buying/L-7/",
    "/buying/L-3/correct/",
    "/intake/",
    "/intake/units/",
    "/intake/units/?flag=held",
    "/intake/wanted/",
    "/intake/wanted/cheapest/",
    "/intake/places/",
    "/intake/models/",
    "/intake/models/numbering/",
    "/intake/models/import/",
    "/intake/L-7/labels/",
    "/intake/L-7/triage/",
    "/intake/W-136/",
    "/intake/W-136/colour/",
    "/intake/W-136/label/",
    "/W-136/",
    "/bench/",
    "/bench/checks/",
    "/bench/checks/new/",
    "/bench/checks/supply-load/",
    "/bench/known-good/",
    "/bench/instruments/",
    "/bench/sums/",
    "/bench/W-121/",
    "/bench/W-121/fault/",
    "/bench/W-124/fault/",
    "/bench/W-136/?step=supply-load",
    "/bench/W-120/benchmark/",
    "/workshop/",
    "/workshop/stock/",
    "/workshop/stock/import/",
    "/workshop/orders/",
    "/workshop/orders/O-1/",
    "/workshop/orders/O-2/",
    "/workshop/weaknesses/",
    "/workshop/single-parts/",
    "/workshop/single-parts/buy/",
    "/workshop/P-8/",
    "/workshop/P-8/move/?to=W-124",
    "/workshop/P-9/move/",
    "/workshop/W-136/inside/",
    "/workshop/part-sheets/",
    "/workshop/part-sheets/new/",
    "/workshop/part-sheets/1/",
    "/workshop/ways/?from=9-pin+D%2FRGBI&to=15-pin+D%2Fanalogue+RGB",
    "/workshop/W-121/fits/",
    "/workshop/W-121/fits/1/",
    "/workshop/W-121/fits/memory/",
    "/workshop/W-121/fits/which/",
    "/workshop/W-116/fits/28/",
    "/workshop/W-124/beside/",
    "/workshop/W-124/beside/W-125/",
    "/intake/drawers/labels/",
    "/intake/W-121/slips/",
    "/workshop/recipes/",
    "/workshop/recipes/new/",
    "/workshop/recipes/recap-supply/",
    "/workshop/recipes/recap-supply/step/?at=0",
    "/workshop/W-134/treatment/",
    "/workshop/W-136/as-found/",
    "/workshop/W-136/known/",
    "/workshop/W-121/worth/",
    "/workshop/W-136/settings/",
    "/workshop/W-136/strip-down/",
    "/workshop/W-117/strip-down/",
    "/workshop/W-127/strip-down/",
    "/workshop/W-137/strip-down/?reach=Memory+card",
    "/workshop/W-124/strip-down/",
    "/workshop/W-136/strip-down/edit/",
    "/workshop/W-136/strip-down/edit/one/?name=Supply+board",
    "/selling/",
    "/selling/comparables/",
    "/selling/channels/",
    "/selling/sentences/",
    "/selling/comparables/file/",
    "/selling/W-143/",
    "/selling/W-143/pictures/",
    "/shop/W-143/",
    "/books/",
    "/books/L-1/",
    "/books/L-6/",
    "/shop/",
    "/day/",
    "/day/hours/",
    "/queue/",
    "/workshop/W-123/stop-or-go/",
    "/workshop/W-127/stop-or-go/",
    "/workshop/W-114/firmware/",
    "/workshop/W-121/storage/",
    "/workshop/systems/",
    "/workshop/images/",
)
UNIT_PAGES = (
    "/W-{}/",
    "/intake/W-{}/",
    "/bench/W-{}/",
    "/workshop/W-{}/",
    "/selling/W-{}/",
    "/books/W-{}/",
)
STAGES = ("received", "on_bench", "in_workshop", "graded", "listed", "sold", "closed", "scrapped")


# Words on a drawing are at least so tall, px.
# The size of what is pressed is not among what it looks for unasked.
AXE_ASKED = "{resultTypes: ['violations'], rules: {'target-size': {enabled: true}}}"
WHOLE = 6000
SMALLEST = 9
SMALL_WORDS = """smallest => [...document.querySelectorAll('main svg text')].filter(words => {
  if (!words.getBoundingClientRect().width) return false;
  const scale = words.getScreenCTM();
  return parseFloat(getComputedStyle(words).fontSize) * Math.hypot(scale.a, scale.b) < smallest;
}).map(words => words.textContent.trim())"""
# As narrow as a page may be before it is that of a phone: a tablet lying on its side has little more.
TABLET = {"width": 901, "height": 700}
# WCAG 2.2, 1.4.10 Reflow: nothing is to be moved sideways for at 320 CSS pixels.
SMALLEST_PHONE = {"width": 320, "height": 640}
LINKS = """[...document.querySelectorAll('a[href]')].filter(link => link.host === location.host)
  .map(link => link.pathname + link.search)"""


# A choice that says nothing to an eye or an ear.
UNSAID = """[...document.querySelectorAll('select option')].map(one => one.textContent.trim())
  .filter(one => !/[^-–—]/.test(one))"""

# A word as long as a pasted address, and nothing in it where a line could end.
LONG = "Donaudampfschifffahrtselektrizitätenhauptbetriebswerkbauunterbeamtengesellschaft"
TYPED = {
    Supplier: ["name"],
    Lot: ["title", "note"],
    LotLine: ["description", "claim_words"],
    MachineModel: ["name"],
    Unit: ["place", "serial"],
    Finding: ["words", "settled_words"],
    Job: ["title", "result", "waiting_for"],
    StockItem: ["name"],
    KnownGood: ["name"],
    Channel: ["name"],
    Listing: ["title", "text"],
    Sale: ["buyer"],
    Offer: ["buyer"],
    Question: ["who", "words"],
    Return: ["words"],
    FaultCase: ["words"],
    BidPlan: ["title"],
    PartSeller: ["name"],
    HistoryEntry: ["words"],
}


def long_words() -> None:
    """Whatever people name and say has such a word in it."""
    for model, names in TYPED.items():
        for name in names:
            field = model._meta.get_field(name)
            longer = Concat(name, Value(LONG), output_field=TextField())
            most = field.max_length if isinstance(field, CharField) else 2000
            model.objects.exclude(**{name: ""}).update(**{name: Left(longer, most)})


def name_of(path: str) -> str:
    """The name of its address; empty where it is no page of ours."""
    try:
        return resolve(urlsplit(path).path).view_name
    except Resolver404:
        return ""


class EveryPage(BrowserTest):
    takes = 220

    def look(self, page, path: str) -> list[str]:
        """What is wrong with a page: one axe pass, at desk and phone width by turns; what is measured, at both."""
        self.turn = not getattr(self, "turn", False)
        first, second = (DESK, PHONE) if self.turn else (PHONE, DESK)
        # So high that all of it is seen: what stays in sight lies over nothing that one would scroll to.
        page.set_viewport_size(first | {"height": WHOLE})
        answer = page.goto(path)
        if answer.status != 200:
            return [f"{path}: {answer.status}"]
        page.evaluate(AXE)
        found = page.evaluate(f"axe.run(document, {AXE_ASKED})")["violations"]
        wrong = [f"{path}: {v['id']}: {node['html'][:160]}" for v in found for node in v["nodes"][:3]]
        wrong += [f"{path}: nobody says what “{words}” is" for words in page.evaluate(UNSAID)]
        page.set_viewport_size(first)
        wrong += self.measured(page, path)
        page.set_viewport_size(second)
        wrong += self.measured(page, path)
        for size in (TABLET, SMALLEST_PHONE):
            page.set_viewport_size(size)
            wrong += self.sideways(page, path)
        return wrong

    def sideways(self, page, path: str) -> list[str]:
        over = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        return [f"{path} at {page.viewport_size['width']}: scrolls sideways by {over} px"] if over > 0 else []

    def measured(self, page, path: str) -> list[str]:
        small = page.evaluate(SMALL_WORDS, SMALLEST)
        at = f"{path} at {page.viewport_size['width']}"
        return self.sideways(page, path) + ([f"{at}: nobody reads {', '.join(small)}"] if small else [])

    def test_axe_and_width(self):
        demo_shop.put_up()
        paths = [*(reverse(name) for name, *_ in CHOSEN_WITHOUT_A_THING), *PAGES]
        for stage in STAGES:
            number = Unit.objects.filter(stage=stage).values_list("number", flat=True).last()
            paths += [path.format(number) for path in UNIT_PAGES]
        paths += [
            f"/workshop/jobs/{Job.objects.filter(done_at=None).first().pk}/",
            f"/workshop/jobs/{Job.objects.filter(done_at=None).first().pk}/change/",
            f"/workshop/jobs/{Job.objects.exclude(recipe='').first().pk}/",
            f"/workshop/parts/{StockItem.objects.first().pk}/known/",
            f"/workshop/stock/{StockItem.objects.get(name__startswith='Drive belt').pk}/",
            f"/workshop/stock/{StockItem.objects.first().pk}/single-out/",
            f"/workshop/jobs/{Reservation.objects.first().job_id}/",
            f"/intake/lines/{DrawerReceipt.objects.first().line_id}/drawer/",
        ]
        supplier = Supplier.objects.get(name="Quayside sale room").pk
        paths += [f"/buying/suppliers/{supplier}/", "/buying/L-6/manifest/"]
        paths.append(f"/buying/plans/P-2/lines/{PlanLine.objects.filter(plan__number=2).first().pk}/")
        paths.append(f"/buying/L-7/lines/{LotLine.objects.filter(lot__number=7).first().pk}/")
        paths.append(f"/intake/models/{MachineModel.objects.first().pk}/")
        built = MachineModel.objects.exclude(strip_down=None).first()
        paths += [f"/intake/models/{built.pk}/strip-down/", f"/intake/models/{built.pk}/strip-down/one/"]
        paths.append(f"/intake/findings/{Finding.objects.first().pk}/change/")
        paths.append(f"/intake/lines/{LotLine.objects.filter(lot__number=7).last().pk}/record/")
        paths.append(f"/workshop/W-{Unit.objects.filter(approach='donor').first().number}/take-apart/")
        held = PowerStop.objects.get(ended_at=None)
        paths += [f"/bench/stops/{held.pk}/end/", f"/bench/W-{held.unit.number}/"]
        paths.append(f"/intake/findings/{Finding.objects.filter(kind='leak').earliest('pk').pk}/dealt-with/")
        parked = Unit.objects.filter(stage="parked").first().number
        paths += [f"/intake/W-{parked}/settle/{act}/" for act in settling.ACTS]
        paths.append(f"/bench/W-{FaultCase.objects.filter(closed_at=None).first().unit.number}/fault/")
        paths.append(f"/shop/W-{Unit.objects.filter(stage='listed').first().number}/")
        page = self.page
        wrong = self.look(page, "/people/sign-in/")
        page.set_viewport_size(DESK)
        self.sign_in("runa", "harbour-runa", page)
        long_words()
        to_look_at, known = deque(dict.fromkeys(paths)), {name_of(path) for path in paths}
        while to_look_at:
            wrong += self.look(page, to_look_at.popleft())
            # One of each kind of page that a link leads to, whoever forgot it above.
            for path in page.evaluate(LINKS):
                if (name := name_of(path)) and name not in known:
                    known.add(name)
                    if "html" in page.request.get(path).headers.get("content-type", ""):
                        to_look_at.append(path)
        self.assertEqual(wrong, [], "\n" + "\n".join(wrong))
