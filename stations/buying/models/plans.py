"""Plans for a bid, and how things bought turned out."""

from decimal import Decimal

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q

from core.buying.odds import LineOutcome
from core.machine.casing import FormFactor
from stations.buying.models.lots import POSITIVE, Claim, LineKind, Lot, LotLine, Supplier
from stations.common.currency import base_currency
from stations.common.models import Versioned
from stations.people.models import Person

MOST_PIECES = 500  # on one line
PERCENT = [
    MinValueValidator(Decimal(0), "A percentage from 0 to 100."),
    MaxValueValidator(Decimal(100), "A percentage from 0 to 100."),
]
OUTCOMES = [(o.value, o.label) for o in LineOutcome]


def _percent(label: str, default: str = "0") -> models.DecimalField:
    return models.DecimalField(label, max_digits=5, decimal_places=2, default=Decimal(default), validators=PERCENT)


def _amount(label: str) -> models.DecimalField:
    return models.DecimalField(label, max_digits=10, decimal_places=2, default=Decimal(0), validators=POSITIVE)


class BidPlan(Versioned):
    """A lot we may bid for: its terms, our targets, and in the end what was decided."""

    class Status(models.TextChoices):
        OPEN = "open", "planned"
        BOUGHT = "bought", "bought"
        LEFT = "left", "left"

    number = models.PositiveIntegerField(unique=True)
    title = models.CharField("name of the lot", max_length=80)
    supplier = models.ForeignKey(Supplier, on_delete=models.PROTECT, related_name="plans")
    closes_at = models.DateTimeField("closes", null=True, blank=True)
    currency = models.CharField(max_length=3, default=base_currency)
    rate = models.DecimalField(
        "rate: one unit of it in our currency", max_digits=20, decimal_places=12, default=Decimal(1)
    )
    premium_percent = _percent("buyer’s premium, % of price")
    premium_bands = models.CharField("or in bands", max_length=80, blank=True, help_text="25 to 1000; 20 to 5000; 12")
    premium_tax_percent = _percent("tax on premium, %")
    freight = _amount("freight")
    duty_percent = _percent("import duty, % of price and freight")
    import_tax_percent = _percent("import tax, %")
    other = _amount("other charges")
    fee_percent = _percent("selling fee, % of price", "8")
    lot_rho = _percent("all lines share one fate, %", "10")
    postage = models.DecimalField(
        "postage we pay for one piece", max_digits=8, decimal_places=2, null=True, blank=True, validators=POSITIVE
    )
    target_margin = _percent("profit wanted, % of sales", "20")
    loss_limit = _percent("chance of a loss at most, %", "20")
    target_hourly = _amount("profit wanted for an hour of work")
    bid = models.DecimalField("our limit", max_digits=10, decimal_places=2, null=True, blank=True, validators=POSITIVE)
    status = models.CharField(max_length=6, choices=Status, default=Status.OPEN)
    lot = models.OneToOneField(Lot, null=True, blank=True, on_delete=models.PROTECT, related_name="plan")
    decided_at = models.DateTimeField(null=True, blank=True)
    decided_by = models.ForeignKey(Person, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    # What was forecast at the price paid, kept as it was.
    forecast_worth = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    forecast_low = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    forecast_high = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    forecast_landed = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    forecast_hours = models.DecimalField(max_digits=8, decimal_places=2, null=True)
    forecast_terms = models.JSONField(null=True, blank=True, editable=False)
    # Of a lot that we left: what it went for, as far as one learns it.
    went_for = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, validators=POSITIVE)

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.CheckConstraint(condition=Q(rate__gt=0), name="plan_rate_above_0"),
            models.CheckConstraint(condition=Q(lot_rho__lt=100), name="plan_lot_rho_below_100"),
            models.CheckConstraint(condition=Q(postage__gte=0), name="plan_postage_not_negative"),
            models.CheckConstraint(condition=Q(went_for=None) | Q(status="left"), name="plan_went_for_when_left"),
            models.CheckConstraint(
                condition=~Q(status="bought") | Q(lot__isnull=False), name="plan_bought_has_its_lot"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.code} {self.title}"

    @property
    def is_open(self) -> bool:
        """Nobody has bought it or left it yet."""
        return self.status == self.Status.OPEN

    @property
    def settled(self) -> str:
        """Why it does not change any more; empty while it does."""
        return "" if self.is_open else f"{self.code} is {self.get_status_display()}; it does not change any more."

    @property
    def is_left(self) -> bool:
        return self.status == self.Status.LEFT

    @property
    def code(self) -> str:
        return f"B-{self.number:03d}"


class PlanLine(models.Model):
    plan = models.ForeignKey(BidPlan, on_delete=models.CASCADE, related_name="lines")
    position = models.PositiveSmallIntegerField()
    description = models.CharField("what is it", max_length=80)
    quantity = models.PositiveSmallIntegerField(
        "quantity",
        default=1,
        validators=[MinValueValidator(1, "At least one."), MaxValueValidator(MOST_PIECES, f"{MOST_PIECES} at most.")],
    )
    kind = models.CharField(max_length=12, choices=LineKind, default=LineKind.MACHINE)
    form_factor = models.CharField(
        "form factor", max_length=12, choices=[(f.value, f.label) for f in FormFactor], default=FormFactor.DESKTOP.value
    )
    claim = models.CharField(max_length=12, choices=Claim, default=Claim.NONE)
    claim_words = models.CharField("in their words", max_length=400, blank=True)
    rho = _percent("stored together, share one fate, %", "15")
    look_minutes = models.PositiveSmallIntegerField(
        "minutes to find out about one", default=5, validators=[MinValueValidator(1, "At least a minute.")]
    )
    look_cost = models.DecimalField(
        "and what it costs", max_digits=8, decimal_places=2, default=Decimal(0), validators=POSITIVE
    )
    # How far the odds were open when they were taken from our record: 0 to under 1.
    doubt = models.DecimalField(max_digits=5, decimal_places=4, default=Decimal(0), editable=False)
    seen = models.BooleanField("looked at before the sale", default=False, editable=False)
    # A piece that was asked about, of the line it was split off; and odds and correlation of that before any answer.
    split_from = models.ForeignKey(
        "self", null=True, blank=True, on_delete=models.SET_NULL, related_name="pieces", editable=False
    )
    before_answers = models.JSONField(null=True, blank=True, editable=False)

    class Meta:
        ordering = ["position", "id"]
        constraints = [
            models.CheckConstraint(condition=Q(quantity__range=(1, 500)), name="plan_line_1_to_500"),
            models.CheckConstraint(condition=Q(rho__lt=100), name="plan_line_rho_below_100"),
            models.CheckConstraint(condition=Q(doubt__gte=0, doubt__lt=1), name="plan_line_doubt_0_to_1"),
            models.CheckConstraint(condition=Q(look_cost__gte=0), name="plan_line_look_cost_not_negative"),
        ]

    def __str__(self) -> str:
        return self.description

    @property
    def worth_said(self) -> bool:
        """A piece of it sells for something in one case at least; where not, nobody said what it is worth."""
        return any(case.high for case in self.cases.all())


class PlanCase(models.Model):
    """One way a piece of the line may turn out, and what it is worth then."""

    line = models.ForeignKey(PlanLine, on_delete=models.CASCADE, related_name="cases")
    outcome = models.CharField(max_length=10, choices=OUTCOMES)
    odds = models.DecimalField(max_digits=7, decimal_places=6)
    low = models.DecimalField(max_digits=10, decimal_places=2, default=0)
    likely = models.DecimalField(max_digits=10, decimal_places=2, default=0)
    high = models.DecimalField(max_digits=10, decimal_places=2, default=0)
    cost = models.DecimalField(max_digits=10, decimal_places=2, default=0)
    minutes = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["line", "outcome"], name="case_once_a_line"),
            models.CheckConstraint(condition=Q(odds__range=(0, 1)), name="case_odds_0_to_1"),
            models.CheckConstraint(
                condition=Q(low__gte=0, likely__gte=models.F("low"), high__gte=models.F("likely")),
                name="case_prices_in_order",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.outcome} {self.odds}"


class LineAnswer(models.Model):
    """What a question about one piece of a planned line was answered with, before the sale."""

    line = models.ForeignKey(PlanLine, on_delete=models.CASCADE, related_name="answers")
    question = models.CharField(max_length=16)
    answer = models.CharField(max_length=40)
    when = models.DateTimeField()
    who = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["line", "question"], name="question_once_a_line")]

    def __str__(self) -> str:
        return f"{self.question}: {self.answer}"


class ToldOutcome(models.Model):
    """How so many pieces of a planned line turned out at whoever bought the lot: as far as one learns it."""

    line = models.ForeignKey(PlanLine, on_delete=models.CASCADE, related_name="told")
    outcome = models.CharField(max_length=10, choices=OUTCOMES)
    count = models.PositiveSmallIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["line", "outcome"], name="told_once_a_line"),
            models.CheckConstraint(condition=Q(count__gte=1), name="told_at_least_one"),
        ]

    def __str__(self) -> str:
        return f"{self.count} {self.outcome}"


class TurnedOut(models.Model):
    """What became of a unit, told by the station that knows; and what it was `found` to be, where somebody tested it.
    Claims are measured against what was found: what was only written off or parted out says nothing of whether it
    worked, and one that worked and was dropped worked."""

    line = models.ForeignKey(LotLine, on_delete=models.CASCADE, related_name="turned_out")
    unit_number = models.PositiveIntegerField(unique=True)
    outcome = models.CharField(max_length=10, choices=OUTCOMES)
    found = models.CharField("found to be, when tested", max_length=10, choices=OUTCOMES, blank=True)
    found_at = models.DateTimeField()

    class Meta:
        indexes = [models.Index(fields=["line", "outcome"]), models.Index(fields=["line", "found"], name="found_to_be")]

    def __str__(self) -> str:
        return f"W-{self.unit_number}: {self.outcome}"


class StartingOdds(Versioned):
    """What the owner thinks of a claim before anything is known.

    A row without a kind holds for every kind that has none of its own; without any row the table in
    core/buying/odds.py holds.
    """

    claim = models.CharField(max_length=12, choices=Claim)
    kind = models.CharField("of what", max_length=12, choices=LineKind, blank=True)
    works = _percent("works, %")
    repairable = _percent("repairable, %")
    parts = _percent("parts only, %")
    worthless = _percent("worthless, %")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["claim", "kind"], name="starting_odds_once"),
            models.CheckConstraint(
                condition=Q(works=100 - models.F("repairable") - models.F("parts") - models.F("worthless")),
                name="starting_odds_add_up",
                violation_error_message="The four add up to 100 %.",
            ),
        ]

    def __str__(self) -> str:
        return self.claim
