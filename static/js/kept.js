/* The page of what this device keeps: what waits to be sent, and which pages open. */
"use strict";
(async () => {
  const { away } = window;
  const byId = (id) => document.getElementById(id);
  const when = (moment) =>
    new Date(moment).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });

  const row = (entry) => {
    const copy = byId("waiting-row").content.cloneNode(true);
    const part = (name) => copy.querySelector(`[data-${name}]`);
    part("what").textContent = entry.what;
    Object.assign(part("page"), { textContent: entry.title, href: entry.page });
    part("at").textContent = when(entry.at);
    part("open").href = entry.page;
    if (entry.refused) {
      part("refused-why").textContent = `Not taken: ${entry.refused}`;
      part("refused-why").hidden = false;
      part("open").textContent = "Open its page and put it right";
    }
    for (const [label, value] of entry.said) {
      part("said-rows").append(
        Object.assign(document.createElement("dt"), { textContent: label }),
        Object.assign(document.createElement("dd"), { textContent: value }),
      );
    }
    part("throw").addEventListener("click", () => away.throwAway(entry.key));
    return copy;
  };
  const showWaiting = async () => {
    const entries = await away.all();
    byId("waiting-list").replaceChildren(...entries.map(row));
    byId("none-waiting").hidden = entries.length > 0;
  };
  document.addEventListener("waiting", showWaiting);
  await showWaiting();

  const isHere = location.pathname === byId("waiting").dataset.away;
  byId("not-here").hidden = isHere;
  if (!window.caches) return;
  const pages = await caches.open("pages");
  const titled = async (request) => {
    const page = new DOMParser().parseFromString(await (await pages.match(request)).text(), "text/html");
    return [page.title.replace(/ · Wendopolis$/, ""), request.url, page.body.dataset.now];
  };
  const found = await Promise.all((await pages.keys()).map(titled));
  const opening = found.filter(([, address]) => new URL(address).pathname !== byId("waiting").dataset.away);
  byId("no-pages").hidden = opening.length > 0;
  for (const [title, address, now] of opening.reverse()) {
    const item = document.createElement("li");
    item.append(
      Object.assign(document.createElement("a"), { textContent: title, href: address }),
      Object.assign(document.createElement("span"), {
        className: "small soft",
        textContent: ` as it was ${when(now)}`,
      }),
    );
    byId("kept-pages").append(item);
  }
})();
