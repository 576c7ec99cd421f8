"""Every code that is printed: read as a scanner reads it, with the white around it that the standard asks for, and
opening its thing."""

import re

import pypdfium2
import segno
from django.urls import reverse
from PIL import Image
from pyzbar.pyzbar import Decoded, decode
from weasyprint import HTML

from stations.dispatch import papers
from stations.selling import cards, placing
from stations.selling import services as selling
from stations.selling.models import Channel
from stations.units import labels
from tests.hands import boxes_and_carriers
from tests.stations.test_dispatch import D
from tests.stations.test_pages import PageTest

# ISO/IEC 18004: modules of nothing but white on each side of a QR code.
QUIET_ZONE = 4


def is_white_around(page: Image.Image, code: Decoded) -> bool:
    """Whether that many modules around the code are white; half of one is left for where the reader takes its edge."""
    modules = 17 + 4 * int(segno.make(code.data.decode(), error="m", micro=False).version)
    box, one = code.rect, code.rect.width / modules
    edge = [box.left, box.top, box.left + box.width, box.top + box.height]

    def out(by: float) -> tuple[int, ...]:
        return tuple(round(at + by * one * side) for at, side in zip(edge, (-1, -1, 1, 1), strict=True))

    around = page.convert("L")
    around.paste(255, out(0.5))
    return around.crop(out(QUIET_ZONE - 0.5)).getextrema()[0] > 200


class PrintedCodes(PageTest):
    def reads(self, pdf: bytes, words: str, there: str) -> None:
        """The one code on it says this, has its white, and what it says opens the thing."""
        page = pypdfium2.PdfDocument(pdf)[0].render(scale=300 / 72).to_pil()
        (code,) = decode(page)
        self.assertEqual((code.type, code.data.decode()), ("QRCODE", words))
        self.assertTrue(is_white_around(page, code))
        self.assertRedirects(self.client.get("/find/", {"q": words}), there, fetch_redirect_response=False)

    def test_on_the_labels_of_units(self):
        (unit,) = self.receive()
        for size in labels.SIZES.values():
            with self.subTest(size.code):
                self.reads(labels.pdf([labels.of_unit(unit)], size), str(unit.tag), f"/W-{unit.number}/")

    def test_on_the_label_of_a_parcel_with_a_tracking_number_or_none_yet(self):
        boxes_and_carriers(self.owner)
        sale = selling.sell(self.owner, self.listed(), D(150), "Ida Moen", D(9))
        self.hand().pay(sale)
        parcel = self.hand().pack(sale)
        there = f"/dispatch/parcels/{parcel.pk}/"
        self.reads(papers.label(parcel), f"parcel {parcel.pk}", there)
        type(parcel).objects.filter(pk=parcel.pk).update(tracking="MW77X")
        self.reads(papers.label(self.again(parcel)), "MW77X", there)
        for nothing in ("parcel 0", "parcel 99999999", "parcel ²", "http://shop.example/shop/W-99999999/"):
            self.assertContains(self.client.get("/find/", {"q": nothing}), "Nothing here goes by")

    def test_on_the_card_of_a_fair(self):
        unit = self.listed()
        fair = Channel.objects.create(name="Fair", kind=Channel.Kind.FAIR)
        placing.offer_on(self.owner, unit, fair)
        pdf = cards.cards(fair, "https://harbour.example", "Harbour")
        self.reads(pdf, f"https://harbour.example/shop/W-{unit.number}/", f"/W-{unit.number}/")

    def test_on_the_page_of_the_second_factor(self):
        page = self.client.get(reverse("people:second-factor")).content.decode()
        (drawn,) = re.findall(r"<svg.*?otp.*?</svg>|<svg(?! class)[^>]*width.*?</svg>", page, re.DOTALL)
        sheet = pypdfium2.PdfDocument(HTML(string=f"<body style='margin: 20mm'>{drawn}").write_pdf())
        (code,) = decode(sheet[0].render(scale=300 / 72).to_pil())
        self.assertTrue(code.data.decode().startswith("otpauth://totp/"))
