"""Forms and fields that every room uses."""

import hashlib
from collections.abc import Iterable
from typing import Any

from django import forms
from django.core.exceptions import ObjectDoesNotExist
from django.db.models import Model
from django.http import QueryDict
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

from core.money.percent import fraction_doubt
from stations.common.locking import lock_row
from stations.common.refusals import Refused, StaleEdit


class SaidSelect(forms.NullBooleanSelect):
    """Yes, no, or what it is called that nobody said; a plain Select shows that whatever is on record."""

    def __init__(self, attrs=None, unsaid: str = "not said"):
        super().__init__(attrs)
        self.choices = [("unknown", unsaid), ("true", "yes"), ("false", "no")]


def refuse_fractions(form: forms.BaseForm, *names: str) -> None:
    """Percentages that nobody means below 1 are refused where they were typed as shares of 1."""
    for name in names:
        if doubt := fraction_doubt(form.cleaned_data.get(name)):
            form.add_error(name, doubt)


class VersionedForm(forms.ModelForm):
    """A form on a row that several people edit; it carries the version it was filled from."""

    version = forms.IntegerField(widget=forms.HiddenInput)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["version"].initial = self.instance.version

    @property
    def changes(self) -> dict:
        return {name: value for name, value in self.cleaned_data.items() if name != "version"}


class SeenForm(forms.BaseForm):
    """For a form on what several people edit and what counts no versions: it carries a mark of what it showed, and is
    refused where something else stands there by now. Its page shows `form.seen` within the form."""

    instance: Any
    _meta: Any
    # What is held before it (see common/locking).
    held_first: Model | None = None

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        showed = self.shown(self.instance) if self.about else {}
        self.initial = showed | self.initial
        self._mark = self.mark_of(showed) if showed else ""

    @property
    def about(self) -> object:
        """Which row it is of; nothing for a new one."""
        return self.instance.pk

    def standing(self) -> Any:
        """What is edited, as it is now; held until the transaction ends."""
        return lock_row(type(self.instance)._base_manager.all(), self.instance, self.held_first)

    def shown(self, row: Any) -> dict[str, Any]:
        """What the fields show of it, by their names."""
        return forms.model_to_dict(row, self._meta.fields)

    def mark_of(self, shown: dict[str, Any]) -> str:
        return hashlib.sha256(repr(sorted(shown.items())).encode()).hexdigest()[:16]

    @property
    def seen(self) -> SafeString:
        """The mark as the form sends it on."""
        return self._hidden(self.data.get(self.add_prefix("seen"), self._mark) if self.is_bound else self._mark)

    def seen_after(self, row: Any) -> SafeString:
        """In the place of the mark, once the form was saved and stays open."""
        return self._hidden(self.mark_of(self.showing(row)), "true")

    def showing(self, row: Any) -> dict[str, Any]:
        """What the page shows once it was saved: what is kept of it now."""
        return self.shown(row)

    def _hidden(self, mark: str, swap: str = "") -> SafeString:
        name, at = self.add_prefix("seen"), f"seen-{type(self).__name__}-{self.about}"
        given = {"type": "hidden", "name": name, "value": mark, "id": at} | ({"hx-swap-oob": swap} if swap else {})
        return format_html("<input {}>", format_html_join(" ", '{}="{}"', given.items()))

    def take_up(self, data: QueryDict, now: Any) -> None:
        """Goes on from what stands there `now`: saved once more, what was typed is put in its place."""
        data[self.add_prefix("seen")] = self.mark_of(self.shown(now))

    def refuse_if_changed(self) -> None:
        """Raise StaleEdit when what stands there is not what the form showed."""
        if not (mark := self.data.get(self.add_prefix("seen"))):
            return
        try:
            now = self.standing()
        except ObjectDoesNotExist as problem:
            raise Refused("Somebody took it away meanwhile. What you typed stands here still.") from problem
        if mark != self.mark_of(self.shown(now)):
            raise StaleEdit(now)


class OwnIds(forms.BaseForm):
    """For a form that stands on a page beside others whose fields are called the same: `ids` begin the ids of its own,
    so that a label leads to its own field."""

    ids: str

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **{"auto_id": f"{self.ids}_%s"} | kwargs)


def to_choose(label: str, choices: Iterable[tuple[str, str]], unsaid: str, **options) -> forms.ChoiceField:
    """A choice that is made for nobody beforehand: it stands at “choose”, and `unsaid` is said of one that stays so."""
    return forms.ChoiceField(
        label=label, choices=[("", "choose"), *choices], error_messages={"required": unsaid}, **options
    )


def date_input() -> forms.DateInput:
    """The browser's own date picker; it only takes ISO dates."""
    return forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})


def moment_input() -> forms.DateTimeInput:
    """The browser’s own picker of a day and a time."""
    return forms.DateTimeInput(format="%Y-%m-%dT%H:%M", attrs={"type": "datetime-local"})


class FileForm(forms.Form):
    file = forms.FileField(
        max_length=200, error_messages={"required": "Choose a file first.", "empty": "The file is empty."}
    )

    def clean_file(self):
        file = self.cleaned_data["file"]
        if file.size > 4 * 1024 * 1024:
            raise forms.ValidationError("The file is larger than 4 MB.")
        return file
