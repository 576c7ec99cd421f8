"""The test report."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404

from stations.bench.report import pdf
from stations.units.models import Unit


def report(request, number):
    """The test report as PDF."""
    row = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    answer = HttpResponse(pdf(row), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{row.tag}-test-report.pdf"'
    return answer
