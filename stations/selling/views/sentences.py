"""The sentences of every listing, in the shop’s own words where it has some."""

from django.shortcuts import render
from django.urls import reverse

from stations.people.screens import press, sent
from stations.selling import wording


def sentences(request):
    if request.method == "POST":
        there = reverse("selling:sentences")
        code = sent(request, "code")
        return press(request, lambda: wording.word_sentence(request.user, code, sent(request, "words")), there, "words")
    return render(request, "selling/sentences.html", {"rows": wording.sentence_rows()})
