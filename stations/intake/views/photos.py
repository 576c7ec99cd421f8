"""Photos and sounds of a unit."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.intake.forms import ClipForm
from stations.people.screens import kept_words, press, saved
from stations.units import photos, sounds
from stations.units.models import Photo, Unit


@require_POST
def add_photos(request, number):
    row = get_object_or_404(Unit, number=number)
    back = reverse("intake:unit", args=[number]) + "#photos"
    files = request.FILES.getlist("photos")
    if not files:
        messages.error(request, "Choose at least one picture first.")
        return redirect(back)

    def act():
        kept, complaints = photos.add_photos(request.user, row, files, request.POST.get("shot", ""))
        for complaint in complaints:
            messages.error(request, f"{complaint}.")
        if kept:
            messages.success(request, f"{kept} {'photo' if kept == 1 else 'photos'} added.")

    return press(request, act, back)


@require_POST
def say_shot(request, pk):
    photo = get_object_or_404(Photo.objects.select_related("unit"), pk=pk)
    back = reverse("intake:unit", args=[photo.unit.number]) + "#photos"

    return press(request, lambda: photos.say_what_it_shows(request.user, photo, request.POST.get("shot", "")), back)


@require_POST
def add_sound(request, number):
    """A noise that was heard: recorded here or chosen as a file."""
    row = get_object_or_404(Unit, number=number)
    back = reverse("intake:unit", args=[number]) + "#finding"
    form = ClipForm(request.POST, request.FILES)

    if done := saved(
        request,
        form,
        lambda data: sounds.add_heard(request.user, row, data["clip"], data["words"], request.POST.get("face", "")),
        back,
    ):
        return done
    for errors in form.errors.values():
        for error in errors:
            messages.error(request, f"{error}{kept_words(request, 'words')}")
    return redirect(back)
