"""What was refused is told, whether or not the page still has room for the form: somebody else may have moved it on."""

from django import forms
from django.template import Context, Template
from django.test import RequestFactory, SimpleTestCase

from stations.workshop.models import Job
from tests.stations.test_through_the_pages import Through


class Typed(forms.Form):
    words = forms.CharField(label="In his words", required=False)
    secret = forms.CharField(required=False, widget=forms.PasswordInput)
    key = forms.CharField(required=False, widget=forms.HiddenInput)
    sure = forms.BooleanField(required=False)


class OnThePage(SimpleTestCase):
    def page(self, within: str, error: str = "It ended <before>.", at: str | None = None, stale=None, **typed) -> str:
        request = RequestFactory().post("/")
        form = Typed(typed)
        form.is_valid()
        form.add_error(at, error)
        if stale is not None:
            form.stale = stale
        request.refused = form
        text = "{% nothing_unsaid %}{% autoescape on %}" + within + "{% endautoescape %}{% endnothing_unsaid %}"
        return Template(text).render(Context({"request": request, "form": form, "error": error}))

    def test_what_the_page_tells_is_not_told_twice(self):
        for within in ("<p>{{ error }}</p>", "{{ form.non_field_errors }}", "{% include 'shell/form_errors.html' %}"):
            self.assertNotIn("You had typed", self.page(within, words="a scratch"), within)
            self.assertNotIn('note--hold mt-2"', self.page(within), within)

    def test_what_it_does_not_tell_comes_first_with_what_was_typed(self):
        page = self.page("<p>Sold.</p>", words="a “<scratch>”", secret="sesame", key="77", sure="on")
        self.assertIn("<b>It ended &lt;before&gt;.</b>", page)
        self.assertIn("in his words “a “&lt;scratch&gt;””", page)
        for hidden in ("sesame", "77"):
            self.assertNotIn(hidden, page)
        self.assertLess(page.index("ended"), page.index("Sold."))

    def test_an_error_at_a_field_that_is_not_shown_is_told_too(self):
        self.assertIn("It ended", self.page("<p>nothing here</p>", at="sure"))
        self.assertNotIn("You had typed", self.page("<p>nothing here</p>"))

    def test_theirs_beside_yours_says_enough(self):
        stale = [{"label": "words", "yours": "a", "theirs": "b"}]
        told = self.page("{% include 'shell/form_errors.html' %}", "Compare below, then save again.", stale=stale)
        self.assertNotIn("Compare below", told)
        self.assertIn("Compare below", self.page("<p>Sold.</p>", "Compare below, then save again.", stale=stale))

    def test_a_page_that_refused_nothing_is_as_it_is(self):
        text = "{% nothing_unsaid %}<p>Sold.</p>{% endnothing_unsaid %}"
        self.assertEqual(Template(text).render(Context({"request": RequestFactory().get("/")})), "<p>Sold.</p>")
        self.assertEqual(Template(text).render(Context()), "<p>Sold.</p>")


class FromAnOldPage(Through):
    """Sent from a page that was opened before somebody else did it."""

    STANDS = "listed"

    def kept(self, answer, why: str, typed: str) -> None:
        """The page, or the one it leads to, says why, and what was typed is there."""
        page = self.client.get(answer["Location"]) if answer.status_code == 302 else answer
        self.assertContains(page, why, status_code=page.status_code)
        self.assertContains(page, typed, status_code=page.status_code)

    def test_a_job_that_is_done(self):
        unit = self.assessed("enhanced")
        form = {"title": "New belt", "kind": "repair", "estimate_minutes": "20", "reversible": "on", "version": "1"}
        self.done(self.post("workshop:unit", [unit.number], **form))
        job = Job.objects.latest("pk")
        self.done(self.post("workshop:done", [job.pk], result="runs quietly"))
        self.kept(self.post("workshop:done", [job.pk], result="it squeaks again"), "done", "it squeaks again")
        self.kept(self.post("workshop:minutes", [job.pk], minutes="35"), "done", "35")

    def test_a_unit_that_is_sold(self):
        unit = self.listed()
        sale = {"price": "140", "buyer": "A. Reader", "postage": "9", "channel": str(self.channel.pk)}
        self.done(self.post("selling:sale", [unit.number], **sale))
        self.kept(self.post("selling:sale", [unit.number], **sale | {"buyer": "B. Keen"}), "not on offer", "B. Keen")
        price = {"asking": "199.99", "channel": str(self.channel.pk), "version": "1"}
        self.kept(self.post("selling:price", [unit.number], **price), "sold", "199.99")
