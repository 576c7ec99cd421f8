"""How makers number their serials."""

from django.shortcuts import render
from django.urls import reverse

from stations.catalogue import services as catalogue
from stations.catalogue.forms import PatternForm, RuleForm
from stations.catalogue.models import SerialPattern, VariantRule
from stations.people.screens import saved


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
        "patterns": SerialPattern.objects.select_related("model")[:200],
        "rules": VariantRule.objects.all()[:200],
    }
    return render(request, "catalogue/numbering.html", context)
