"""How makers number their serials."""

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.catalogue import services as catalogue
from stations.catalogue.forms import PatternForm, RuleForm
from stations.catalogue.models import SerialPattern, VariantRule
from stations.people.screens import press, saved

PER_PAGE = 50


@require_POST
def drop(request, what, pk):
    """A pattern or a rule that is wrong."""
    there = reverse("catalogue:numbering")
    if what == "pattern":
        row, drop_it = get_object_or_404(SerialPattern, pk=pk), catalogue.drop_pattern
    elif what == "rule":
        row, drop_it = get_object_or_404(VariantRule, pk=pk), catalogue.drop_rule
    else:
        raise Http404

    def act():
        drop_it(request.user, row)
        messages.success(request, f"Dropped: {row}.")

    return press(request, act, there)


def numbering(request):
    """How makers numbered: serial patterns and variant rules, as data."""
    which = request.POST.get("what", "")
    pattern = PatternForm(request.POST if which == "pattern" else None, prefix="pattern")
    rule = RuleForm(request.POST if which == "rule" else None, prefix="rule")

    def add_pattern(data):
        catalogue.add_pattern(request.user, SerialPattern(**data))

    def add_rule(data):
        catalogue.add_rule(request.user, VariantRule(**data))

    for form, act in ((pattern, add_pattern), (rule, add_rule)):
        if form.is_bound and (done := saved(request, form, act, reverse("catalogue:numbering"))):
            return done
    context = {
        "pattern": pattern,
        "rule": rule,
        "patterns": Paginator(SerialPattern.objects.select_related("model"), PER_PAGE).get_page(
            request.GET.get("patterns")
        ),
        "rules": Paginator(VariantRule.objects.all(), PER_PAGE).get_page(request.GET.get("rules")),
    }
    return render(request, "catalogue/numbering.html", context)
