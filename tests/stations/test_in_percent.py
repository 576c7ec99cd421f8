"""A percentage that was typed as a share of 1 is refused at its field, wherever nobody means less than 1 %."""

from dataclasses import asdict

from core.money.percent import WORDS
from stations.common.details import as_kept
from stations.people import shop_settings
from stations.people.models import ShopSettings
from stations.units.models import OwnersTerms
from tests.stations.test_plans import TERMS
from tests.stations.test_through_the_pages import Through


def typed(row: object) -> dict[str, object]:
    return {name: "" if value is None else value for name, value in vars(row).items()}


class InPercent(Through):
    def test_a_plan(self):
        form = {name: "" if value is None else str(value) for name, value in asdict(TERMS).items()}
        for name in ("premium_percent", "import_tax_percent", "fee_percent", "lot_rho", "target_margin"):
            page = self.post("buying:plan-new", version=1, **form | {name: "0.18"})
            self.assertEqual(page.context["form"].errors, {name: [WORDS]})
            self.says(page, WORDS, "0.18")

    def test_tax(self):
        row = shop_settings.settings()
        form = typed(as_kept(shop_settings.SettingsDetails, row)) | {"version": row.version, "closes_at": ""}
        self.says(self.post("people:settings", **form | {"tax_percent": "0.21"}), WORDS, "0.21")
        self.done(self.post("people:settings", **form | {"tax_percent": "0"}))
        self.assertEqual(ShopSettings.objects.get().tax_percent, 0)

    def test_commission(self):
        (unit,) = self.receive()
        said = {"holding": "consigned", "owner_name": "E. Norr"}
        self.says(self.post("intake:hold", [unit.number], **said, commission_percent="0.25"), WORDS, "0.25")
        self.post("intake:hold", [unit.number], **said, commission_percent="25")
        self.assertEqual(OwnersTerms.objects.get(unit=unit).commission_percent, 25)
