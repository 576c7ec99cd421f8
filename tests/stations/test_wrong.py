"""What is wrong with something typed is said in the voice of the shop, whatever form it was typed into."""

from decimal import Decimal

from django import forms
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase


class OneVoice(SimpleTestCase):
    def said(self, field: forms.Field, typed: object) -> str:
        with self.assertRaises(forms.ValidationError) as refused:
            field.clean(typed)
        return " ".join(refused.exception.messages)

    def test_of_a_field_that_words_nothing_itself(self):
        cents = forms.DecimalField(max_digits=6, decimal_places=2, min_value=Decimal("0.01"))
        for field, typed, words in (
            (forms.CharField(), "", "Fill this in."),
            (forms.CharField(max_length=3), "four", "Too long: 4 characters, at most 3."),
            (forms.CharField(min_length=3), "no", "Too short: 2 characters, at least 3."),
            (forms.CharField(), "a\x00b", "There is a character in it that can’t be kept: type it again."),
            (forms.IntegerField(), "1.5", "Type a whole number."),
            (forms.IntegerField(max_value=9), "10", "This may not be above 9."),
            (cents, "none", "Type a number."),
            (cents, "NaN", "Type a number."),
            (cents, "0", "This may not be below 0.01."),
            (cents, "1.234", "At most 2 figures behind the point."),
            (cents, "12345.6", "Too large: at most 4 figures before the point."),
            (cents, "12345.67", "Too long a number: at most 6 figures."),
            (forms.DateField(), "the 3rd", "Type a day: 2026-07-31."),
            (forms.TimeField(), "noon", "Type a time of day: 14:45."),
            (forms.ChoiceField(choices=[("a", "A")]), "b", "“b” is not among the choices any more: choose again."),
            (forms.FileField(), SimpleUploadedFile("x.txt", b""), "The file is empty."),
            (
                forms.ImageField(),
                SimpleUploadedFile("x.png", b"x"),
                "That is no picture, or a broken one: choose another.",
            ),
        ):
            with self.subTest(words):
                self.assertIn(words, self.said(field, typed))

    def test_of_a_page_that_lost_how_many_lines_it_had(self):
        lines = forms.formset_factory(forms.Form)({"form-TOTAL_FORMS": "many"})
        self.assertFalse(lines.is_valid())
        errors = lines.management_form.errors
        said = {*lines.non_form_errors(), *errors["TOTAL_FORMS"], *errors["INITIAL_FORMS"]}
        self.assertEqual(said, {"A part of this page is missing: open it anew, and type it again."})
