"""The shop's recipes: all of them, one with its steps, a step as it is typed."""

from django.http import Http404
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.catalogue import recipes as book
from stations.catalogue.forms_recipe import RecipeForm, StepForm
from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.people.screens import press, saved, sent


def recipes(request):
    context = {"recipes": list(book.recipes().values()), "resting": book.resting()}
    return render(request, "catalogue/recipes.html", context)


def new(request):
    form = RecipeForm(request.POST or None)

    def save(data):
        recipe = book.keep(request.user, book.made(lambda: form.recipe(book.new_code(data["title"]))), 0)
        return reverse("catalogue:recipe", args=[recipe.code])

    return saved(request, form, save) or render(request, "catalogue/recipe.html", {"form": form})


def recipe(request, code):
    """A recipe with its steps; the form puts right what it is for."""
    row, version = _recipe(code)
    form = RecipeForm(request.POST or None, initial={**RecipeForm.values_of(row), "version": version})
    there = reverse("catalogue:recipe", args=[code])

    def save(data):
        steps = _recipe(code)[0].steps
        book.keep(request.user, book.made(lambda: form.recipe(code, steps)), data["version"] or 0)

    steps = [(step, book.cautions_of(row, index)) for index, step in enumerate(row.steps)]
    context = {"form": form, "recipe": row, "steps": steps, "in_use": book.is_in_use(code), "version": version}
    return saved(request, form, save, there) or render(request, "catalogue/recipe.html", context)


@require_POST
def use(request, code):
    _recipe(code)
    there = reverse("catalogue:recipe", args=[code])
    return press(request, lambda: book.put_aside(request.user, code, bool(sent(request, "aside"))), there)


def step(request, code):
    """Add a step, or put one right; `at` counts from 0."""
    row, version = _recipe(code)
    index = _index(row, request.GET.get("at", ""))
    initial = StepForm.values_of(row.steps[index]) if index is not None else {"minutes": 5}
    form = StepForm(request.POST or None, initial={**initial, "version": version})

    def save(data):
        now, _ = _recipe(code)
        book.keep(request.user, book.with_step(now, index, data["step"]), data["version"] or 0)

    there = reverse("catalogue:recipe", args=[code])
    context = {"form": form, "recipe": row, "number": None if index is None else index + 1}
    return saved(request, form, save, there) or render(request, "catalogue/recipe_step.html", context)


@require_POST
def arrange(request, code):
    """A step up, down or out."""
    row, version = _recipe(code)
    there = reverse("catalogue:recipe", args=[code])

    def act():
        index = _index(row, sent(request, "at"))
        if index is None or whole_number(sent(request, "seen")) != version:
            # By its number, it may be another step by now.
            raise Refused("Somebody else changed this recipe meanwhile. Look at its steps again.")
        moves = {"up": -1, "down": 1}
        what = sent(request, "what")
        changed = book.without_step(row, index) if what == "out" else book.moved(row, index, moves.get(what, 0))
        book.keep(request.user, changed, version)

    return press(request, act, there)


def _recipe(code):
    try:
        return book.recipe_and_version(code)
    except KeyError as problem:
        raise Http404 from problem


def _index(recipe, typed: str) -> int | None:
    number = whole_number(typed)
    return number if number is not None and number < len(recipe.steps) else None
