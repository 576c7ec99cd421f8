"""Forms and fields that every room uses."""

from collections.abc import Iterable

from django import forms


class VersionedForm(forms.ModelForm):
    """A form on a row that several people edit; it carries the version it was filled from."""

    version = forms.IntegerField(widget=forms.HiddenInput)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["version"].initial = self.instance.version

    @property
    def changes(self) -> dict:
        return {name: value for name, value in self.cleaned_data.items() if name != "version"}


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
