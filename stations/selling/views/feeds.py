"""What machines read of the public shop: an Atom feed of what is new, a sitemap, and everything as CSV."""

from django.contrib.auth.decorators import login_not_required
from django.contrib.sitemaps import Sitemap
from django.contrib.sitemaps.views import index, sitemap
from django.contrib.syndication.views import Feed
from django.http import HttpResponse
from django.urls import reverse
from django.utils.feedgenerator import Atom1Feed

from stations.common import clock
from stations.common.currency import base_currency
from stations.common.spreadsheet import csv_answer
from stations.people import shop_settings
from stations.selling import shop, shop_pages
from stations.selling.models import Listing, Reserved

NEWEST = 50
MOST_ROWS = 50_000


class NewForSale(Feed):
    """The newest of what is for sale. Only title and price: what one must know stands on the page, whole."""

    feed_type = Atom1Feed
    login_required = False

    def title(self) -> str:
        return f"For sale at {shop_settings.settings().name}"

    def subtitle(self) -> str:
        return "Old computers, described as they are"

    def link(self) -> str:
        return reverse("shop:front")

    def feed_url(self) -> str:
        return reverse("shop:feed")

    def items(self) -> list[Listing]:
        return list(shop.for_sale().select_related("unit")[:NEWEST])

    def item_title(self, item: Listing) -> str:
        return f"{item.title}: {base_currency()} {item.asking}"

    def item_description(self, item: Listing) -> str:
        return f"{item.get_grade_display() or 'Not graded'}. What was tested and what is wrong with it is on its page."

    def item_link(self, item: Listing) -> str:
        return reverse("shop:unit", args=[item.unit.number])

    def item_pubdate(self, item: Listing):
        return item.published_at

    def item_updateddate(self, item: Listing):
        return item.published_at


class UnitsForSale(Sitemap):
    """A page a unit, 5,000 in a file."""

    limit = 5000

    def items(self):
        return (
            Listing.objects.filter(on_show=True)
            .select_related("unit")
            .only("published_at", "unit__number")
            .order_by("id")
        )

    def lastmod(self, item: Listing):
        return item.published_at

    def location(self, item: Listing) -> str:
        return reverse("shop:unit", args=[item.unit.number])


class ShopPages(Sitemap):
    def items(self) -> list[str]:
        return [reverse("shop:front"), *(reverse("shop:page", args=[slug]) for slug in shop_pages.STANDARD)]

    def location(self, item: str) -> str:
        return item


SECTIONS = {"units": UnitsForSale, "pages": ShopPages}


@login_not_required
def sitemaps(request):
    # A sitemap that lists nothing is none by its schema.
    some = Listing.objects.filter(on_show=True).exists()
    told = {name: section for name, section in SECTIONS.items() if some or section is not UnitsForSale}
    return index(request, told, sitemap_url_name="shop:sitemap-part")


@login_not_required
def sitemap_part(request, section):
    return sitemap(request, SECTIONS, section)


@login_not_required
def robots(request):
    """Which pages are anybody’s, and where all of them are listed (RFC 9309)."""
    listed = request.build_absolute_uri(reverse("shop:sitemap"))
    lines = ("User-agent: *", f"Allow: {reverse('shop:front')}", "Disallow: /", "", f"Sitemap: {listed}", "")
    return HttpResponse("\n".join(lines), content_type="text/plain; charset=utf-8")


FIELDS = ("id", "title", "link", "price", "currency", "availability", "condition")


@login_not_required
def for_sale_csv(request):
    """What is for sale, one line each."""
    base = request.build_absolute_uri(reverse("shop:front"))
    reserved = set(
        Reserved.objects.filter(until__gt=clock.now(), open_for__isnull=False).values_list("unit", flat=True)
    )
    states = {grade: code for code, (_, grades) in shop.STATES.items() for grade in grades}

    def rows():
        for one in shop.for_sale().select_related("unit")[:MOST_ROWS].iterator(chunk_size=2000):
            there = "reserved" if one.unit_id in reserved else "in stock"
            link, state = f"{base}W-{one.unit.number}/", states.get(one.grade, "")
            yield one.unit.tag, one.title, link, one.asking, base_currency(), there, state

    return csv_answer("for-sale.csv", FIELDS, rows())
