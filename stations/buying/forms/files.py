from django import forms

from core.buying.manifest import MOST_BYTES


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
            raise forms.ValidationError("The file is larger than 4 MB. A manifest has 5,000 lines at most.")
        return file
