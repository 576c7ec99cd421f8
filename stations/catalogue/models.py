"""The shop's bank of models: what a machine of a kind is, and how its maker numbered."""

from django.core.exceptions import ValidationError
from django.core.validators import MinValueValidator
from django.db import models
from django.db.models import Q

from core.catalogue.fit.kinds import Region
from core.machine.casing import FormFactor
from core.machine.mains import Mains
from core.machine.measures import size_doubt
from core.machine.supply import Battery, Supply
from stations.common.models import Versioned

SUPPLIES = [(s.value, s.label) for s in Supply]
BATTERIES = [(b.value, b.label) for b in Battery]
FORM_FACTORS = [(f.value, f.label) for f in FormFactor]
MAINS = [(m.value, m.label) for m in Mains]
REGIONS = [(region.value, region.value) for region in Region]


class MachineModels(models.QuerySet):
    def to_choose(self, standing: int | None = None) -> "MachineModels":
        """Where a model is chosen: those in use, and the one that stands there already, by its key."""
        return self.filter(Q(in_use=True) | Q(pk=standing))


class MachineModel(models.Model):
    """A model in the shop's bank: what a machine of this kind is, and what should come with it."""

    maker = models.CharField(max_length=40)
    name = models.CharField(max_length=40)
    form_factor = models.CharField(max_length=12, choices=FORM_FACTORS)
    year_from = models.PositiveSmallIntegerField(null=True, blank=True)
    year_to = models.PositiveSmallIntegerField(null=True, blank=True)
    # Outer measures; empty where nobody measured one.
    width_mm = models.PositiveSmallIntegerField(null=True, blank=True)
    height_mm = models.PositiveSmallIntegerField(null=True, blank=True)
    depth_mm = models.PositiveSmallIntegerField(null=True, blank=True)
    supply = models.CharField(max_length=12, choices=SUPPLIES, default=Supply.UNKNOWN.value)
    battery = models.CharField(max_length=10, choices=BATTERIES, default=Battery.UNKNOWN.value)
    picture_tube = models.BooleanField("CRT inside", null=True, blank=True)
    drives = models.PositiveSmallIntegerField(null=True, blank=True)
    keyboard = models.BooleanField("keyboard to test", null=True, blank=True)
    keeps_data = models.BooleanField("storage in it that keeps data", null=True, blank=True)
    needs_cell = models.BooleanField("its switch needs a good cell", default=False)
    photos_wanted = models.PositiveSmallIntegerField(default=3)
    shots = models.CharField("photos it must have", max_length=200, blank=True)
    offers = models.TextField("slots, sockets, limits", blank=True)
    hazards = models.TextField("what to look out for", blank=True)
    adapter = models.CharField("adapter it wants", max_length=40, blank=True)
    in_use = models.BooleanField("offered where a model is chosen", default=True)

    objects = MachineModels.as_manager()

    class Meta:
        ordering = ["maker", "name"]
        constraints = [
            models.UniqueConstraint(fields=["maker", "name"], name="model_once"),
            models.CheckConstraint(
                condition=Q(width_mm__gt=0) & Q(height_mm__gt=0) & Q(depth_mm__gt=0), name="model_has_a_size"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.maker} {self.name}"

    def clean(self) -> None:
        if self.size and self.form_factor and (doubt := size_doubt(FormFactor(self.form_factor), self.size)):
            raise ValidationError({"width_mm": doubt})

    @property
    def size(self) -> tuple[int, int, int] | None:
        """Width, height and depth in mm; None where one of them is not known."""
        if self.width_mm is None or self.height_mm is None or self.depth_mm is None:
            return None
        return self.width_mm, self.height_mm, self.depth_mm

    @property
    def years(self) -> str:
        if not self.year_from:
            return ""
        return (
            f"{self.year_from}"
            if not self.year_to or self.year_to == self.year_from
            else f"{self.year_from}–{self.year_to}"
        )


class ModelStripDown(Versioned):
    """What machines of a model are put together from: see core/catalogue/assemblies.py. A unit starts from a copy."""

    model = models.OneToOneField(MachineModel, on_delete=models.CASCADE, related_name="strip_down")
    assemblies = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"strip-down of {self.model}"


class ExpectedItem(models.Model):
    """One thing that belongs with a model; `weight` says how much it matters."""

    model = models.ForeignKey(MachineModel, on_delete=models.CASCADE, related_name="expected")
    name = models.CharField(max_length=60)
    weight = models.PositiveSmallIntegerField(default=1, validators=[MinValueValidator(1)])
    estimate = models.DecimalField(
        "a replacement costs about", max_digits=8, decimal_places=2, default=0, validators=[MinValueValidator(0)]
    )

    class Meta:
        ordering = ["-weight", "id"]

    def __str__(self) -> str:
        return self.name


class SerialPattern(models.Model):
    """How a maker numbered: fields of fixed length, see core/intake/serial.py. Without a model it holds for all."""

    maker = models.CharField(max_length=40)
    model = models.ForeignKey(MachineModel, null=True, blank=True, on_delete=models.CASCADE, related_name="patterns")
    pattern = models.CharField(max_length=80)
    note = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ["maker", "id"]
        constraints = [models.UniqueConstraint(fields=["maker", "pattern"], name="serial_pattern_once")]

    def __str__(self) -> str:
        return f"{self.maker}: {self.pattern}"


class VariantRule(models.Model):
    """A maker's base number and the one after it, and the mains each stands for."""

    maker = models.CharField(max_length=40)
    base = models.PositiveIntegerField("base number")
    at_base = models.CharField("the base number means", max_length=12, choices=MAINS)
    at_next = models.CharField("the next number means", max_length=12, choices=MAINS)

    class Meta:
        ordering = ["maker", "base"]
        constraints = [models.UniqueConstraint(fields=["maker", "base"], name="variant_rule_once")]

    def __str__(self) -> str:
        return f"{self.maker} {self.base}"


class ShopRecipe(Versioned):
    """A recipe of the shop's own, or one that the application comes with as the shop does it."""

    code = models.CharField(max_length=40, unique=True)
    recipe = models.JSONField()
    active = models.BooleanField("in use", default=True)

    class Meta:
        ordering = ["code"]

    def __str__(self) -> str:
        return self.code


class Weakness(Versioned):
    """What goes wrong with machines of a model, or with parts of a name, known to the shop: it raises the odds of a
    cause by `factor`, and says what to look at. Serials and a revision narrow it down; empty for all."""

    model = models.ForeignKey(MachineModel, null=True, blank=True, on_delete=models.CASCADE, related_name="weaknesses")
    part_words = models.CharField("parts called", max_length=60, blank=True)
    serial_from = models.CharField("serials from", max_length=40, blank=True)
    serial_to = models.CharField("to", max_length=40, blank=True)
    revision = models.CharField(max_length=40, blank=True)
    what = models.CharField("what goes wrong", max_length=160)
    look_at = models.CharField("what to look at", max_length=160, blank=True)
    suspect = models.CharField("makes likelier", max_length=20, blank=True)
    factor = models.DecimalField(
        "so many times", max_digits=4, decimal_places=1, default=3, validators=[MinValueValidator(1, "From 1 up.")]
    )
    minutes = models.PositiveSmallIntegerField("minutes to look", default=5)
    told_by = models.CharField("who says so", max_length=80, blank=True)

    class Meta:
        ordering = ["model", "part_words", "id"]
        constraints = [
            models.CheckConstraint(
                condition=Q(model__isnull=False) | ~Q(part_words=""), name="a_weakness_is_of_something"
            ),
            models.CheckConstraint(condition=Q(factor__gte=1), name="a_weakness_never_lowers_odds"),
        ]

    def __str__(self) -> str:
        return self.what


class ModelOffers(Versioned):
    """What machines of a model offer: see core/catalogue/fit/offers.py."""

    model = models.OneToOneField(MachineModel, on_delete=models.CASCADE, related_name="fit")
    offers = models.JSONField(default=dict)

    def __str__(self) -> str:
        return f"what {self.model} offers"


class PartSheet(Versioned):
    """What parts of a name are and need, wherever they lie: see core/catalogue/fit/needs.py. `converts`: one of the
    converters that a way from plug to plug is looked for among."""

    name = models.CharField("part", max_length=80, unique=True)
    needs = models.JSONField(default=dict)
    converts = models.BooleanField(default=False, editable=False, db_index=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Tried(models.Model):
    """Somebody tried a part in a machine of a model: it ran, or it was refused. Evidence with who and when."""

    sheet = models.ForeignKey(PartSheet, on_delete=models.CASCADE, related_name="tried")
    model = models.ForeignKey(MachineModel, on_delete=models.CASCADE, related_name="tried")
    runs = models.BooleanField("it ran", choices=[(True, "it ran"), (False, "it was refused")])
    part_version = models.CharField("which version of it", max_length=40, blank=True)
    who = models.CharField("who tried it", max_length=60)
    on = models.DateField("when")
    region = models.CharField("where: mains and picture", max_length=20, blank=True, choices=REGIONS)
    words = models.CharField("what was seen", max_length=160, blank=True)

    class Meta:
        ordering = ["-on", "-id"]

    def __str__(self) -> str:
        return f"{self.sheet} in {self.model}: {'ran' if self.runs else 'refused'}"
