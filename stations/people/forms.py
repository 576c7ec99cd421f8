from django import forms

from stations.people.models import ShopSettings


class VersionedForm(forms.ModelForm):
    """A form on a row that several people edit; it carries the version it was filled from."""

    version = forms.IntegerField(widget=forms.HiddenInput)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["version"].initial = self.instance.version

    @property
    def changes(self) -> dict:
        return {name: value for name, value in self.cleaned_data.items() if name != "version"}


def date_input() -> forms.DateInput:
    """The browser's own date picker; it only takes ISO dates."""
    return forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})


class SettingsForm(VersionedForm):
    class Meta:
        model = ShopSettings
        fields = ["name", "labour_rate", "target_margin", "postage", "tax_scheme", "tax_percent"]
