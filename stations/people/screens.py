"""The way every form ends: done once, refused in words at the field, or told that somebody else was faster."""

import hashlib
import random
import re
import time
from collections.abc import Callable, Iterable, Mapping
from datetime import timedelta
from typing import Any, cast
from urllib.parse import parse_qsl, urlencode, urlsplit

from django.contrib import messages
from django.contrib.sessions.backends.db import SessionStore
from django.core.files.uploadedfile import UploadedFile
from django.db import IntegrityError, OperationalError, connection, transaction
from django.forms import BaseForm, Field, PasswordInput
from django.http import HttpRequest, HttpResponseRedirect
from django.shortcuts import redirect
from django.utils import timezone
from django.utils.choices import flatten_choices

from stations.common.forms import SeenForm
from stations.common.keys import new_key
from stations.common.models import Versioned
from stations.common.refusals import Refused, StaleEdit
from stations.people.models import Person, WriteKey

# What MariaDB says when two transactions stood in each other's way and this one was undone, or waited too long.
_IN_THE_WAY = {1213, 1205, 1020}
# And when somebody else was first with what there may be one of: another go meets theirs, and says so in words.
_THERE_ALREADY = 1062
_TRIES = 8
KEPT_FOR = timedelta(days=30)


def once(
    person: Person, key: str, act: Callable[[], str], again: Callable[[], None] = lambda: None, content: str = ""
) -> str:
    """Run `act` in a transaction unless a write with this key was done; return the address it leads to.

    `content` is a digest of what was sent: the same key with another one is no second press, and is said so.
    A second press that comes while the first is still at work waits for it at the unique key. After a deadlock
    the whole transaction was undone and is done again, if it is the outermost; `again` is called before that.
    """
    key = (key or new_key())[:64]
    for turn in range(1, _TRIES + 1):
        try:
            return _write_once(person, key, act, content)
        except (OperationalError, IntegrityError) as problem:
            if problem.args[0] == _THERE_ALREADY:
                if turn > 1:
                    raise Refused("There is one of the same name or number already.") from problem
            elif problem.args[0] not in _IN_THE_WAY or turn == _TRIES or connection.in_atomic_block:
                raise
            time.sleep(random.uniform(0.01, 0.04) * turn)  # noqa: S311 - only to get out of step
            again()
    raise AssertionError("never reached")


def _write_once(person: Person, key: str, act: Callable[[], str], content: str) -> str:
    try:
        with transaction.atomic():
            written = WriteKey.objects.create(key=key, person=person, leads_to="", content=content)
            leads_to = act()
            WriteKey.objects.filter(pk=written.pk).update(leads_to=leads_to)
            return leads_to
    except IntegrityError:
        done = WriteKey.objects.filter(key=key).first()
        if done is None:
            raise
        if done.person_id != person.pk:
            raise Refused("This page was sent by somebody else. Load it again.") from None
        if done.content != content:
            raise Refused(
                "This page was sent before and saved as it was then. What stands here now is not saved: "
                "look at what was, then save again if this is wanted too."
            ) from None
        return done.leads_to


def _digest(request: HttpRequest) -> str:
    """Of everything that was sent but the marks that differ with each page."""
    digest = hashlib.sha256(request.path.encode())
    for name, values in sorted(request.POST.lists()):
        if name not in {"csrfmiddlewaretoken", "write_key"}:
            digest.update(repr((name, values)).encode())
    for name, file in _files(request):
        digest.update(repr((name, file.name, file.size)).encode())
    return digest.hexdigest()


def _files(request: HttpRequest) -> list[tuple[str, UploadedFile]]:
    """Every file that was sent, by name; several may stand under one."""
    return [(name, file) for name in sorted(request.FILES) for file in request.FILES.getlist(name)]


def forget_what_is_over() -> None:
    """A second press comes within seconds; a page that stood open comes back within days. Who was signed in and is no
    longer has nothing left to come back to."""
    SessionStore.clear_expired()
    WriteKey.objects.filter(done_at__lt=timezone.now() - KEPT_FOR).delete()


def save_versioned(row: Versioned, seen_version: int, changes: Mapping[str, Any]) -> None:
    """Write `changes` to the row if it is still at `seen_version`; raise StaleEdit if not."""
    rows = type(row)._base_manager
    updated = rows.filter(pk=row.pk, version=seen_version).update(**changes, version=seen_version + 1)
    if not updated:
        raise StaleEdit(rows.get(pk=row.pk))
    row.refresh_from_db()


def attempt(request: HttpRequest, form: BaseForm, act: Callable[[dict], str]) -> str | None:
    """Check the form and do it once. None means: show the form again, with all that was typed and why."""
    leads_to = _attempt(request, form, act)
    if leads_to is None:
        request.not_done = "Not saved."  # type: ignore[attr-defined]
    return leads_to


def _attempt(request: HttpRequest, form: BaseForm, act: Callable[[dict], str]) -> str | None:
    key = request.POST.get("write_key", "")
    # Until it was done: a page that has no room for this form any more says what is wrong all the same.
    request.refused = form  # type: ignore[attr-defined]
    if not form.is_valid():
        _say_in_words(form)
        # A second press may find what the first one made, and take it for somebody else's.
        done = (
            WriteKey.objects.filter(key=key, person=_person(request), content=_digest(request)).first() if key else None
        )
        return done.leads_to if done else None
    try:
        return once(_person(request), key, lambda: _act(form, act), _fresh(request), _digest(request))
    except StaleEdit as stale:
        differing = differences(form, stale.current)
        if not differing and "X-Recorded-Ago" in request.headers:
            return request.path  # it came before, and only the answer was lost
        form.stale = differing  # type: ignore[attr-defined]
        data = request.POST.copy()
        if isinstance(form, SeenForm):
            form.take_up(data, stale.current)
        else:
            data[form.add_prefix("version")] = str(stale.current.version)
        form.data = data
        form.add_error(None, stale.message)
    except Refused as refusal:
        form.add_error(refusal.field if refusal.field in form.fields else None, refusal.message)
    return None


# What Django says of a row that the database would not take, where nobody worded it.
_VIOLATED = re.compile("Constraint “(?P<name>.+)” is violated.")


def _say_in_words(form: BaseForm) -> None:
    """Constraints are named by sentences: what is told of one that is broken is its sentence."""
    for error in form.non_field_errors().as_data():
        if isinstance(error.message, str) and (broken := _VIOLATED.fullmatch(error.message)):
            error.message = broken["name"].replace("_", " ").capitalize() + "."


def _act(form: BaseForm, act: Callable[[dict], str]) -> str:
    if isinstance(form, SeenForm):
        form.refuse_if_changed()
    # Each go has a dict of its own: what one takes out of it is there for the next.
    return act({**form.cleaned_data})


def sent(request: HttpRequest, name: str) -> str:
    """What was typed into a field beside a button, without the blanks around it; empty when there is none."""
    return request.POST.get(name, "").strip()


def kept_words(request: HttpRequest, *names: str) -> str:
    """What was typed into these fields, in a sentence to go with a refusal; empty when nothing was."""
    typed = "; ".join(filter(None, (sent(request, name) for name in names)))
    return f" You had typed: {typed[:600]}" if typed else ""


def saved(
    request: HttpRequest, form: BaseForm, save: Callable[[dict], object], there: str = ""
) -> HttpResponseRedirect | None:
    """A form that saves: once it was sent and is good, `save` its data and go to the address that gives, else `there`.

    None means: show the form, with all that was typed and why.
    """
    if request.method != "POST":
        return None
    leads_to = attempt(request, form, lambda data: _address(save(data), there))
    return redirect(leads_to) if leads_to else None


# What a form may begin with is no longer than this, nor the address that it comes from (a WriteKey keeps it).
MOST_BEGUN, MOST_ADDRESS = 120, 300


def one_more(request: HttpRequest, there: str, *names: str) -> str:
    """`there`, where the form comes empty again but for what the next one is likely to share with this one: what was
    sent in `names`."""
    shared = {name: said for name in names if (said := sent(request, name))}
    address = f"{there}?{urlencode(shared)}" if shared else there
    return address if len(address) <= MOST_ADDRESS else there


def begun_with(request: HttpRequest, *names: str) -> dict[str, str]:
    """What such a form begins with."""
    return {name: said[:MOST_BEGUN] for name in names if (said := request.GET.get(name, ""))}


def press(request: HttpRequest, act: Callable[[], object], there: str, *typed: str) -> HttpResponseRedirect:
    """A button: do it once and go `there`, or to the address `act` gives.

    A refusal is said `there`, with what was typed into the fields `typed` beside the button.
    """
    key, there = request.POST.get("write_key", ""), _at_its_page(request, there)
    try:
        return redirect(once(_person(request), key, lambda: _address(act(), there), _fresh(request), _digest(request)))
    except Refused as refusal:
        request.not_done = refusal.message  # type: ignore[attr-defined]
        messages.error(request, refusal.message + kept_words(request, *typed))
        return redirect(there)


# How addresses call the pages of a list; a page that has two lists gives each a name.
PAGES_OF = {"page", "lines", "live", "offers", "parts", "patterns", "questions", "rules", "without"}


def _at_its_page(request: HttpRequest, there: str) -> str:
    """`there`, as it was shown: whoever pressed on a later page of a list is on that page still."""
    came = urlsplit(request.META.get("HTTP_REFERER", ""))
    is_later = any(name in PAGES_OF for name, _ in parse_qsl(came.query))
    address = f"{there}?{came.query}"
    return address if came.path == there and is_later and len(address) <= MOST_ADDRESS else there


def _address(given: object, there: str) -> str:
    return given if isinstance(given, str) and given.startswith("/") else there


def _person(request: HttpRequest) -> Person:
    """Who sent it; only those who are signed in come this far."""
    if not isinstance(request.user, Person):
        raise Refused("Sign in first.")
    return request.user


def _fresh(request: HttpRequest) -> Callable[[], None]:
    """Puts a request back to how it came, for another go: files at their beginning, nothing said yet."""
    said = cast(Any, messages.get_messages(request))
    before = len(said._queued_messages)

    def again() -> None:
        del said._queued_messages[before:]
        for _, file in _files(request):
            file.seek(0)

    return again


def differences(form: BaseForm, current: Any) -> list[dict[str, Any]]:
    """Where what was typed differs from what stands there now. A form whose fields are not those of the row says
    itself what the row has in them (`row_as_typed`)."""
    rows = []
    typed = form.data if hasattr(form, "row_as_typed") else form.cleaned_data
    if isinstance(form, SeenForm):
        values = form.shown(current)
    else:
        values = form.row_as_typed(current) if hasattr(form, "row_as_typed") else vars(current)
    for name, field in form.fields.items():
        if name == "version" or (name not in values and not hasattr(current, name)):
            continue
        if isinstance(field.widget, PasswordInput):
            continue  # a key that somebody else typed is shown to nobody
        yours, theirs = typed.get(name), values.get(name, getattr(current, name, None))
        if yours != theirs and _in_words(field, yours) != _in_words(field, theirs):
            rows.append(
                {
                    "label": str(field.label or name),
                    "yours": _in_words(field, yours),
                    "theirs": _in_words(field, theirs),
                }
            )
    return rows


def _in_words(field: Field, value: Any) -> str:
    """A value of a field as its page shows it: a choice by its label, a list by its lines."""
    if isinstance(value, list):
        return "\n".join(map(str, value))
    if value in (None, ""):
        return ""
    choices: Iterable = flatten_choices(getattr(field, "choices", ()))
    labels = {str(key): str(label) for key, label in choices}
    if str(value) in labels:
        return labels[str(value)]
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)
