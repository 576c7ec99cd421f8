"""Offers, questions, and what channels told, in one list; each answered once."""

from django.core.paginator import Paginator
from django.http import Http404
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press, saved
from stations.selling import attention, news, offers
from stations.selling import inbox as answers
from stations.selling.forms import AnswerForm, QuestionForm
from stations.selling.models import ChannelMessage, Offer, Question


def inbox(request):
    """What waits for an answer, the best offers first; then what was answered."""
    waiting = Paginator(attention.waiting_offers(), 15).get_page(request.GET.get("offers"))
    questions = Paginator(attention.waiting_questions(), 15).get_page(request.GET.get("questions"))
    past = Offer.objects.exclude(status=Offer.Status.OPEN).select_related("unit", "channel", "answered_by")
    context = {
        "offers": waiting,
        "questions": questions,
        "past": past.order_by("-answered_at")[:15],
        "answered": Question.objects.exclude(answered_at=None).select_related("unit").order_by("-answered_at")[:10],
    }
    return render(request, "selling/inbox.html", context)


def answer(request, pk):
    """Take an offer, decline it, or ask for more."""
    row = get_object_or_404(Offer.objects.select_related("unit__listing", "channel", "answered_by"), pk=pk)
    form = AnswerForm(request.POST or None, initial={"counter": row.advised})

    def save(data):
        offers.respond(request.user, row, Offer.Status(data["status"]), data["counter"])

    there = reverse("selling:unit", args=[row.unit.number]) + "#offers"
    if done := saved(request, form, save, _back(request, there)):
        return done
    return render(request, "selling/offer.html", {"offer": row, "form": form, "unit": row.unit})


def question(request, pk):
    row = get_object_or_404(Question.objects.select_related("unit__listing", "channel", "answered_by"), pk=pk)
    form = QuestionForm(request.POST or None)

    def save(data):
        answers.answer_question(request.user, row, data["answer"])

    if done := saved(request, form, save, reverse("selling:inbox")):
        return done
    return render(request, "selling/question.html", {"question": row, "form": form, "unit": row.unit})


@require_POST
def message(request, pk, what):
    """Decide a sale or a payout that a channel told, or set aside what was seen to."""
    row = get_object_or_404(ChannelMessage.objects.select_related("channel", "unit"), pk=pk)
    acts = {"take": news.take, "refuse": news.refuse, "payout": news.take_payout, "aside": news.set_aside}
    if what not in acts:
        raise Http404
    return press(request, lambda: acts[what](request.user, row), reverse("selling:selling"))


def _back(request, there: str) -> str:
    return reverse("selling:inbox") if request.POST.get("list") else there
