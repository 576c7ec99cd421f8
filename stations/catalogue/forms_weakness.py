"""A weakness as it is typed."""

from typing import cast

from django import forms

from stations.catalogue.models import MachineModel, Weakness
from stations.catalogue.weaknesses import WeaknessDetails, suspect_words
from stations.common.details import names_of
from stations.common.forms import VersionedForm
from stations.common.typed import as_typed


class WeaknessForm(VersionedForm):
    wide = ("what", "look_at", "told_by")

    class Meta:
        model = Weakness
        formfield_callback = as_typed
        fields = names_of(WeaknessDetails)
        error_messages = {"what": {"required": "Say what goes wrong."}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        words = sorted(suspect_words().items(), key=lambda pair: pair[1])
        self.fields["suspect"] = forms.ChoiceField(
            label="Makes likelier", required=False, choices=[("", "nothing in particular"), *words]
        )
        model = cast(forms.ModelChoiceField, self.fields["model"])
        model.empty_label, model.queryset = "any machine", MachineModel.objects.to_choose(self.instance.model_id)

    def clean(self):
        data = super().clean() or {}
        if not data.get("model") and not data.get("part_words"):
            self.add_error("model", "Of which model, or of parts called what?")
        return data

    def _get_validation_exclusions(self):
        # That it is of something is said at the field, not by the constraint.
        return super()._get_validation_exclusions() | {"part_words"}  # type: ignore[misc]
