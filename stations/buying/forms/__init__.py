from stations.buying.forms.charges import charges_form
from stations.buying.forms.files import TakeInForm, UploadForm
from stations.buying.forms.lots import LotForm, NotComeForm, OneLineForm, ShareForm, SupplierForm, lines_form
from stations.buying.forms.plans import (
    BidForm,
    BoughtForm,
    PlanForm,
    PlanLineForm,
    QuickLineForm,
    StartingOddsForm,
    ToldForm,
)

__all__ = [
    "BidForm",
    "BoughtForm",
    "LotForm",
    "NotComeForm",
    "OneLineForm",
    "PlanForm",
    "PlanLineForm",
    "QuickLineForm",
    "ShareForm",
    "StartingOddsForm",
    "SupplierForm",
    "TakeInForm",
    "ToldForm",
    "UploadForm",
    "charges_form",
    "lines_form",
]
