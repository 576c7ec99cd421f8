from django import forms

from core.buying.manifest import MOST_BYTES
from stations.buying.forms.fields import amount, shape_field


class TakeInForm(forms.Form):
    """What is said once of all lines that are taken in. `of_worth`: some say what they are worth, on a lot;
    `shapeless`: so many tell no shape."""

    finish_cost = amount("Cost to finish one, where its worth is said", help_text="0 where nothing is to be done")
    shape = shape_field()
    again = forms.BooleanField(label="Import it again all the same", required=False)

    def __init__(self, *args, of_worth: bool, shapeless: int, **named) -> None:
        super().__init__(*args, **named)
        if not of_worth:
            del self.fields["finish_cost"]
        if shapeless:
            self.fields["shape"].label = f"Form factor of the {shapeless} that tell none"
        else:
            del self.fields["shape"]


class UploadForm(forms.Form):
    file = forms.FileField(
        label="Manifest (CSV)",
        max_length=200,
        error_messages={"required": "Choose a file first.", "empty": "The file is empty."},
        widget=forms.FileInput(attrs={"accept": ".csv,.txt,.tsv,text/csv"}),
    )

    def clean_file(self):
        file = self.cleaned_data["file"]
        if file.size > MOST_BYTES:
            raise forms.ValidationError("The file is larger than 4 MB: 5,000 lines at most.")
        return file
