"""What is wrong with something typed, in the voice of the shop where a form says nothing of its own.

Django says what it expected (“Ensure that …”); ours say what to do, or how much is kept.
"""

from django.contrib.auth.validators import UnicodeUsernameValidator
from django.core import validators
from django.db.models import Field
from django.forms import fields, formsets, models

# What was chosen is told where it may have been typed: the field can't show it any more.
_NOT_ONE_OF_THEM = "“%(value)s” is not among the choices any more: choose again."
_NO_CHOICE = "That is not among the choices any more: choose again."
_LINES_LOST = "A part of this page is missing: open it anew, and type it again."
_OF_FIELDS = (
    (fields.Field, {"required": "Fill this in."}),
    (fields.IntegerField, {"invalid": "Type a whole number."}),
    (fields.FloatField, {"invalid": "Type a number."}),
    (fields.DecimalField, {"invalid": "Type a number."}),
    (fields.DateField, {"invalid": "Type a day: 2026-07-31."}),
    (fields.TimeField, {"invalid": "Type a time of day: 14:45."}),
    (fields.DateTimeField, {"invalid": "Type a day and a time: 2026-07-31 14:45."}),
    (
        fields.FileField,
        {
            "invalid": "No file came: choose it again.",
            "missing": "No file came: choose it again.",
            "empty": "The file is empty.",
            "max_length": "The name of the file is too long: %(length)d characters, at most %(max)d.",
        },
    ),
    (fields.ImageField, {"invalid_image": "That is no picture, or a broken one: choose another."}),
    (fields.ChoiceField, {"invalid_choice": _NOT_ONE_OF_THEM}),
    (fields.MultipleChoiceField, {"invalid_choice": _NOT_ONE_OF_THEM, "invalid_list": _NO_CHOICE}),
    (models.ModelChoiceField, {"invalid_choice": _NO_CHOICE}),
    (
        models.ModelMultipleChoiceField,
        {"invalid_choice": _NO_CHOICE, "invalid_list": _NO_CHOICE, "invalid_pk_value": _NO_CHOICE},
    ),
    (
        formsets.BaseFormSet,
        {
            "missing_management_form": _LINES_LOST,
            "too_many_forms": "More than %(num)d lines: leave some out.",
        },
    ),
)
_OF_VALIDATORS = (
    (validators.MaxLengthValidator, "Too long: %(show_value)d characters, at most %(limit_value)d."),
    (validators.MinLengthValidator, "Too short: %(show_value)d characters, at least %(limit_value)d."),
    (validators.MinValueValidator, "This may not be below %(limit_value)s."),
    (validators.MaxValueValidator, "This may not be above %(limit_value)s."),
    (UnicodeUsernameValidator, "Letters, figures and @ . + - _ make a name to sign in with, and nothing else."),
    (validators.ProhibitNullCharactersValidator, "There is a character in it that can’t be kept: type it again."),
)
_OF_DECIMALS = {
    "invalid": "Type a number.",
    "max_digits": "Too long a number: at most %(max)s figures.",
    "max_decimal_places": "At most %(max)s figures behind the point.",
    "max_whole_digits": "Too large: at most %(max)s figures before the point.",
}


def in_our_words() -> None:
    """Once, while the application starts: every form made from then on speaks so."""
    for kind, messages in _OF_FIELDS:
        kind.default_error_messages = {**kind.default_error_messages, **messages}
    # How many lines a page had: the one form that Django itself has made by now.
    for field in formsets.ManagementForm.base_fields.values():
        field.error_messages |= {"required": _LINES_LOST, "invalid": _LINES_LOST}
    for validator, message in _OF_VALIDATORS:
        validator.message = message
    validators.DecimalValidator.messages = _OF_DECIMALS
    # Of a column, of which every row has another.
    Field.default_error_messages = {
        **Field.default_error_messages,
        "unique": "Another one has this already.",
    }
