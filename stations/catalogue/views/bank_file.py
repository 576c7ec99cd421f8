"""A file of the bank: looked at first, line by line, then all of it or nothing."""

from collections.abc import Callable

from django.contrib import messages
from django.shortcuts import render

from stations.catalogue import bank_files
from stations.common.forms import FileForm
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.people.screens import press


def bank_file(request, what: str, title: str, back: str, take: Callable[[Person, bytes], bank_files.TakenIn]):
    text = request.POST.get("text", "")
    if text:

        def act():
            messages.success(request, str(take(request.user, text.encode())))
            return back

        return press(request, act, request.path)
    form, rows = FileForm(request.POST, request.FILES) if request.method == "POST" else FileForm(), None
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data["file"].read()
        try:
            rows, text = bank_files.look_through(request.user, data, what), bank_files.text_of(data)
        except Refused as refusal:
            form.add_error("file", refusal.message)
    context = {"form": form, "rows": rows, "text": text, "title": title, "back": back, "may": bank_files.MAY[what]}
    context["unread"] = sorted({name for row in rows or () for name in row.unread})
    context["bad"] = [row for row in rows or () if row.wrong]
    return render(request, "catalogue/import.html", context)
