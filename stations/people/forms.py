from django import forms
from django.contrib.auth.forms import AuthenticationForm, PasswordChangeForm, SetPasswordForm
from django.core.validators import MaxLengthValidator

from stations.common.details import names_of
from stations.common.forms import SeenForm, VersionedForm, date_input, refuse_fractions
from stations.common.happened import day_field
from stations.people import tokens
from stations.people.models import HistoryEntry, Person, ReadToken, Role, ShopSettings
from stations.people.shop_settings import SettingsDetails


class SettingsForm(VersionedForm):
    tax_from = day_field("that scheme and rate hold from")

    class Meta:
        model = ShopSettings
        fields = names_of(SettingsDetails)

    @property
    def settings(self) -> dict:
        return {name: value for name, value in self.changes.items() if name != "tax_from"}

    def clean(self):
        data = super().clean()
        refuse_fractions(self, "tax_percent")
        if not self.errors and (data["latitude"] is None) != (data["longitude"] is None):
            self.add_error(
                "longitude" if data["longitude"] is None else "latitude", "A place has both: degrees north and east."
            )
        return data


class LogForm(forms.Form):
    """What of the log is shown."""

    of = forms.ChoiceField(label="done to", choices=[("", "anything"), *HistoryEntry.Subject.choices], required=False)
    who = forms.ModelChoiceField(Person.objects.order_by("first_name", "pk"), empty_label="anybody", required=False)
    pk = forms.IntegerField(required=False, widget=forms.HiddenInput)
    until = forms.DateField(label="up to", required=False, widget=date_input(), help_text="today, if empty")


class SignInForm(AuthenticationForm):
    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        # The form this is made from only tells the browser how long a name may be.
        self.fields["username"].validators.append(MaxLengthValidator(Person._meta.get_field("username").max_length))

    def clean(self):
        return self.cleaned_data if self.errors else super().clean()


class TokenForm(forms.ModelForm):
    """A token for a program."""

    days = forms.TypedChoiceField(
        label="reads for",
        choices=[(days or 0, words) for days, words in tokens.LASTS],
        coerce=lambda days: int(days) or None,
        initial=tokens.LASTS[0][0],
    )

    class Meta:
        model = ReadToken
        fields = ["purpose"]

    @property
    def said(self) -> tokens.NewToken:
        return tokens.NewToken(self.cleaned_data["purpose"], self.cleaned_data["days"])


class CodeForm(forms.Form):
    code = forms.CharField(
        max_length=20,
        error_messages={"required": "Type the code."},
        widget=forms.TextInput({"autocomplete": "one-time-code", "autocapitalize": "off", "autofocus": True}),
    )


class RolesField(forms.MultipleChoiceField):
    widget = forms.CheckboxSelectMultiple

    def __init__(self, **kwargs):
        super().__init__(choices=Role.choices, required=False, label="may act as", **kwargs)


TAKEN = "Somebody signs in with that name already."


class NamesForm(SeenForm, forms.ModelForm):
    class Meta:
        model = Person
        fields = ["first_name", "last_name", "username"]
        labels = {"username": "name to sign in with"}
        help_texts = {"username": ""}
        error_messages = {"username": {"unique": TAKEN}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["first_name"].required = True


class PersonForm(NamesForm):
    roles = RolesField()


class RolesForm(forms.Form):
    roles = RolesField()
    seen = forms.MultipleChoiceField(choices=Role.choices, required=False, widget=forms.MultipleHiddenInput)


# What Django asks of a password, in a line.
ASKED = "at least 8 characters; not your name, not one that everybody uses"


class OwnPasswordForm(PasswordChangeForm):
    """Another password for who is signed in."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        _say_once(self)


def _say_once(form: forms.Form) -> None:
    form.fields["new_password1"].help_text = ASKED
    form.fields["new_password2"].help_text = ""
    form.fields["new_password2"].label = "the same once more"


class BeginForm(SetPasswordForm):
    """A password chosen at a one-time address; who never signed in chooses the name too."""

    def __init__(self, user, *args, **kwargs):
        super().__init__(user, *args, **kwargs)
        _say_once(self)
        if user and not user.has_begun:
            named = NamesForm(instance=user).fields
            self.fields = named | self.fields
            for name in named:
                self.fields[name].initial = getattr(user, name)

    def clean_username(self):
        name = self.cleaned_data["username"]
        if Person.objects.filter(username=name).exclude(pk=self.user.pk).exists():
            raise forms.ValidationError(TAKEN)
        return name

    def save(self, commit=True):
        for name in ("username", "first_name", "last_name"):
            if name in self.cleaned_data:
                setattr(self.user, name, self.cleaned_data[name])
        return super().save(commit)
