from django import forms


class TakeOutForm(forms.Form):
    unit = forms.CharField(label="Tag", max_length=20, error_messages={"required": "Which unit?"})
    why = forms.CharField(label="Why", max_length=200, error_messages={"required": "Say why."})
