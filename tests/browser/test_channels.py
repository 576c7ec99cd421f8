"""On two channels through the pages: sold on one, ended on the other; reserved, and its time runs out."""

import threading
from datetime import timedelta
from decimal import Decimal

from django.utils import timezone
from playwright.sync_api import expect

from simulators import marketplace
from stations.common import clock
from stations.queue import services as queue
from stations.queue.models import QueuedWork
from stations.selling import telling
from stations.selling.models import Channel, Reserved, Sale
from tests.browser.base import PHONE, BrowserTest
from tests.stations.base import fill_shop


class Channels(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        server = marketplace.serve()
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.market = server.market
        self.rail = Channel.objects.create(
            name="Rail market",
            kind=Channel.Kind.MARKET,
            address=f"http://127.0.0.1:{server.server_port}",
            fee_percent=Decimal(5),
            set_up_by=self.owner,
        )
        self.shop = Channel.objects.create(name="Shop page", kind=Channel.Kind.SHOP)
        self.unit = self.listed()
        self.now = timezone.now()

    def worked(self) -> None:
        while True:
            self.now = max(self.now, timezone.now())
            with clock.at(self.now):
                if queue.work_once("w"):
                    continue
            waiting = QueuedWork.objects.filter(state="waiting").order_by("due_at").first()
            if waiting is None:
                return
            self.now = max(self.now, waiting.due_at)

    def places(self):
        self.page.goto(f"{self.live_server_url}/selling/W-{self.unit.number}/")
        return self.page.locator("#places tr").filter(has_text="Rail market")

    def test_sold_there_it_ends_here_and_a_stranger_asks(self):
        self.sign_in("olga", "olga-sesame")
        self.places().get_by_role("button", name="Offer it on Rail market").click()
        self.settled()
        expect(self.page.locator("#places tr").filter(has_text="Rail market")).to_contain_text("being put up")
        self.worked()
        expect(self.places()).to_contain_text("on offer there")

        # A stranger finds it in the shop, looks at it on a phone, and asks.
        phone = self.open_page(PHONE)
        phone.goto(f"{self.live_server_url}/shop/")
        phone.get_by_label("Look for").fill("halden")
        phone.keyboard.press("Enter")
        phone.locator(".shop-list a").first.click()
        expect(phone.locator("body")).to_contain_text("What you should know")
        phone.get_by_label("Your name").fill("Elin Varga")
        phone.get_by_label("Your question").fill("Is the fan loud?")
        phone.get_by_role("button", name="Send it").click()
        expect(phone.locator("#ask")).to_contain_text("We need a way to answer")
        expect(phone.get_by_label("Your question")).to_have_value("Is the fan loud?")
        phone.get_by_label("How we reach you").fill("01632 960112")
        phone.get_by_role("button", name="Send it").click()
        expect(phone.locator("#ask")).to_contain_text("Thank you")
        self.page.goto(f"{self.live_server_url}/selling/offers/")
        expect(self.page.locator("main")).to_contain_text("Is the fan loud?")
        self.page.get_by_role("link", name="Answer").click()
        self.page.get_by_label("Your answer").fill("Hardly.")
        self.page.get_by_role("button", name="Keep the answer").click()
        self.settled()

        self.market.buy(str(self.unit.tag), "Ines Falk")
        queue.put(telling.READ, {"channel": self.rail.pk})
        self.worked()
        self.assertEqual(Sale.objects.get().channel, self.rail)
        self.page.goto(f"{self.live_server_url}/selling/W-{self.unit.number}/")
        expect(self.page.locator("#blocks")).to_contain_text("Ines Falk on Rail market")
        phone.goto(f"{self.live_server_url}/shop/W-{self.unit.number}/")
        expect(phone.locator("main")).to_contain_text("Sold.")
        phone.goto(f"{self.live_server_url}/shop/")
        expect(phone.locator("main")).to_contain_text("Nothing is for sale today")

    def test_held_for_somebody_until_its_time_runs_out(self):
        self.sign_in("olga", "olga-sesame")
        self.places().get_by_role("button", name="Offer it on Rail market").click()
        self.settled()
        self.worked()
        self.page.get_by_text("Hold it for somebody").click()
        until = timezone.localtime(timezone.now() + timedelta(days=2))
        self.page.get_by_label("Hold it for", exact=True).fill("Ola Brandt")
        self.page.get_by_label("Until", exact=True).fill(until.strftime("%Y-%m-%dT%H:%M"))
        self.page.get_by_role("button", name="Hold it").click()
        self.settled()
        expect(self.page.locator("#offers")).to_contain_text("Held for Ola Brandt")
        expect(self.page.locator("#places tr").filter(has_text="Rail market")).to_contain_text("may still be on offer")
        self.worked()
        self.assertEqual(self.market.listings[str(self.unit.tag)]["state"], "ended")

        with clock.at(timezone.now() + timedelta(days=2, minutes=1)):
            queue.put_recurring()
        self.worked()
        self.assertEqual(Reserved.objects.get().ended_words, "its time ran out")
        self.assertEqual(self.market.listings[str(self.unit.tag)]["state"], "open")
        expect(self.places()).to_contain_text("on offer there")
        expect(self.page.locator("#offers")).not_to_contain_text("Held for Ola Brandt")
