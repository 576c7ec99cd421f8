"""The pages of the public shop in the owner’s words."""

from django.shortcuts import render
from django.urls import reverse

from stations.people.screens import saved
from stations.selling import shop_pages
from stations.selling.forms import ShopPageForm


def pages(request):
    """How to buy, postage, returns, and what the law asks for: one form each."""
    slug = request.POST.get("slug", "") or request.GET.get("page", "")
    row = shop_pages.page_of(slug) or shop_pages.page_of(shop_pages.FIRST)
    form = ShopPageForm(request.POST or None, page=row)

    def save(data):
        shop_pages.word_page(request.user, row.slug, data["title"], data["text"])

    if done := saved(request, form, save, f"{reverse('selling:pages')}?page={row.slug}"):
        return done
    return render(request, "selling/pages.html", {"form": form, "row": row, "rows": shop_pages.all_pages()})
