"""How makers number their serials."""

from django.shortcuts import redirect, render
from django.urls import reverse

from stations.catalogue import services as catalogue
from stations.catalogue.forms import PatternForm, RuleForm
from stations.catalogue.models import SerialPattern, VariantRule
from stations.people.screens import attempt


def numbering(request):
    """How makers numbered: serial patterns and variant rules, as data."""
    which = request.POST.get("what", "")
    pattern = PatternForm(request.POST if which == "pattern" else None, prefix="pattern")
    rule = RuleForm(request.POST if which == "rule" else None, prefix="rule")
    for form, act in ((pattern, catalogue.add_pattern), (rule, catalogue.add_rule)):
        if form.is_bound:

            def do(data, act=act):
                act(request.user, data)
                return reverse("catalogue:numbering")

            if leads_to := attempt(request, form, do):
                return redirect(leads_to)
    context = {
        "pattern": pattern,
        "rule": rule,
        "patterns": SerialPattern.objects.select_related("model")[:200],
        "rules": VariantRule.objects.all()[:200],
    }
    return render(request, "catalogue/numbering.html", context)
