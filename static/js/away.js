/* Without a connection: what is recorded at intake and at the bench waits on this device and is sent once, in the order
   in which it was recorded, with how long ago that was. What the shop did not take is shown, and nothing of it is lost. */
"use strict";
(() => {
  const { who, waits, worker, kept } = document.body.dataset;
  const PAGES = "pages",
    KEPT = "field__kept",
    ANOTHER = "another window sends";
  if (!who) {
    // Who comes next has not been let in yet. What waits to be sent stays, and is shown to nobody else.
    window.caches?.delete(PAGES);
    return;
  }
  const line = document.getElementById("waiting");
  const { away, door, script } = line.dataset;
  const { typed } = window;
  const { createStore, del, set, values } = window.idbKeyval;
  const store = createStore("wendopolis", "waiting");
  const here = location.pathname + location.search;

  navigator.serviceWorker?.register(worker).then(async () => {
    const pages = await caches.open(PAGES);
    if (await pages.match(away)) return;
    await (await caches.open("things")).add(script);
    await pages.add(away);
  }, console.warn);

  const newKey = () =>
    [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  const byTime = (one, other) => one.at - other.at;
  /* A device that keeps nothing has nothing waiting. */
  const all = async () => (await values(store).catch(() => [])).filter((each) => each.who === who).sort(byTime);

  /* What each form of this page has waiting, and what it showed then. */
  const formOf = new Map();
  const leadTo = (form) => form.getAttribute("action") || form.getAttribute("hx-post") || here;
  const mayWait = (form) => form.elements.write_key && waits.split(" ").some((each) => leadTo(form).startsWith(each));
  /* One that is filled from a record says it anew; any other adds one more each time. */
  const addsOne = (form) => !form.elements.version && !form.querySelector("[id^=seen-]");
  const timeOf = (moment) => new Date(moment).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  const waitsSince = (at) => `Kept on this device at ${timeOf(at)}; it is sent when there is a connection.`;

  /* Whether it waits here now. `submitter`: what pressed it; without one it saved itself, and its key was never sent. */
  const keep = async (form, at, submitter = null) => {
    if (!mayWait(form)) return false;
    const before = form.dataset.waits;
    const key = submitter ? form.elements.write_key.value : newKey();
    const fields = [...new FormData(form, submitter)].filter(
      ([name]) => !["csrfmiddlewaretoken", "write_key"].includes(name),
    );
    const heading = form.closest("section")?.querySelector("h1, h2, h3") ?? document.querySelector("h1");
    const entry = {
      key,
      who,
      fields,
      page: here,
      action: leadTo(form),
      title: document.title.replace(/ · Wendopolis$/, ""),
      what: [heading, submitter]
        .map((each) => each?.innerText.trim().replace(/\s+/g, " "))
        .filter(Boolean)
        .join(" · "),
      said: typed.saidIn(form),
      kept: typed.typedInto(form),
      adds: addsOne(form),
      pressed: submitter !== null,
      at,
    };
    try {
      await set(key, entry, store);
      if (before && before !== key) {
        formOf.delete(before);
        await del(before, store);
      }
    } catch {
      return false; // a device that keeps nothing: the page goes on trying by itself
    }
    formOf.set(key, { form, shown: typed.asSent(form) });
    if (entry.adds) {
      delete form.dataset.waits;
      form.reset();
      form.elements.write_key.value = newKey();
    } else form.dataset.waits = key;
    typed.mark(form, waitsSince(entry.at), KEPT);
    window.topBar.quiet();
    await show("no connection");
    sendLater();
    return true;
  };
  /* A form was saved after all: what waited of it does not any more. */
  const forget = async (form) => {
    const key = form.dataset.waits;
    if (!key) return;
    delete form.dataset.waits;
    formOf.delete(key);
    await del(key, store).catch(console.warn);
    await show();
  };
  window.away = { all, forget, keep, sendNow: () => send(), throwAway: (key) => del(key, store).then(() => show()) };

  const link = (words, address) => Object.assign(document.createElement("a"), { textContent: words, href: address });
  const show = async (why = "") => {
    const entries = await all();
    const refused = entries.filter((each) => each.refused).length;
    const waiting = entries.length - refused;
    line.replaceChildren();
    if (waiting) {
      line.append(link(`${waiting} waiting to be sent`, away));
      if (why) line.append(Object.assign(document.createElement("span"), { textContent: why }));
      const button = Object.assign(document.createElement("button"), {
        type: "button",
        className: "btn btn-line",
        textContent: "Send now",
      });
      button.addEventListener("click", () => send());
      line.append(button);
    }
    if (refused) line.append(link(`${refused} not taken: look at ${refused === 1 ? "it" : "them"}`, away));
    if (why === "sign in first") line.append(link("Sign in", `${door}?next=${encodeURIComponent(here)}`));
    line.hidden = !entries.length;
    document.dispatchEvent(new Event("waiting"));
  };

  /* What a page of ours says is wrong. */
  const wordsOf = (page) => {
    const said = new DOMParser().parseFromString(page, "text/html");
    const all = (where) => [...said.querySelectorAll(where)];
    const exact = all(".field__error");
    const found = exact.length ? exact : all("[data-refused], .note--hold[role=alert]");
    const words = [
      ...new Set(
        found.map((each) =>
          (each.querySelector("table") ? each.querySelector("b") : each).textContent.trim().replace(/\s+/g, " "),
        ),
      ),
    ];
    return words.join(" ") || "The shop did not take it.";
  };
  /* What every post of ours carries: that it comes from a page of the shop. */
  const headersOf = (page) => JSON.parse(page.body.getAttribute("hx-headers") ?? "{}");
  const post = (entry, headers) => {
    const body = new FormData();
    for (const [name, value] of entry.fields) body.append(name, value);
    body.append("write_key", entry.key);
    const ago = Math.max(0, Math.round((Date.now() - entry.at) / 1000));
    return fetch(entry.action, {
      method: "POST",
      body,
      headers: { ...headers, "X-Saving": "yes", "X-Recorded-Ago": ago, "X-Recorded-By": who },
    });
  };
  const newHeaders = async () => {
    const page = new DOMParser().parseFromString(await (await fetch(away)).text(), "text/html");
    return headersOf(page);
  };
  /* What breaks the shop is not sent on and on, and does not hold up the rest. */
  const GONE = { 404: "It is no longer there.", 413: "What was sent is too large.", 500: "The shop broke over it." };

  /* One after another. Ends at the first that can't be sent now: nothing overtakes. Answers why, or nothing. */
  const sendEach = async (entries, sent) => {
    let headers = headersOf(document);
    for (const entry of entries) {
      try {
        let answer = await post(entry, headers);
        if (answer.status === 403) {
          headers = await newHeaders();
          answer = await post(entry, headers);
        }
        if (answer.status === 401 || answer.status === 403) return "sign in first";
        if ([502, 503, 504].includes(answer.status)) return `the server is starting again (${answer.status})`;
        const leadsTo = answer.headers.get("X-Leads-To"),
          notDone = answer.headers.get("X-Not-Done");
        if (leadsTo && !notDone) {
          await del(entry.key, store);
          sent.push([entry, entry.pressed ? leadsTo : entry.page]);
          continue;
        }
        const isPage = answer.headers.get("Content-Type")?.startsWith("text/html");
        const said = leadsTo ? decodeURIComponent(notDone) : await answer.text();
        const words = GONE[answer.status] ?? (isPage && !leadsTo ? wordsOf(said) : said);
        await set(entry.key, { ...entry, refused: words || "The shop did not take it." }, store);
        sent.push([entry, ""]);
      } catch {
        return "no connection";
      }
    }
    return "";
  };

  let tries = 0,
    timer = null;
  const sendLater = () => {
    clearTimeout(timer);
    const { WAITS } = window.saving;
    timer = setTimeout(send, WAITS[Math.min(tries++, WAITS.length - 1)] * 1000);
  };
  /* By one window of this device at a time. */
  const alone = (act) =>
    navigator.locks
      ? navigator.locks.request("wendopolis waiting", { ifAvailable: true }, (lock) => (lock ? act() : ANOTHER))
      : act();
  /* What waited of this page and does not any more, whichever window sent it. */
  const gone = async () => {
    const ours = [...formOf.keys()];
    const there = new Set((await all()).map(({ key }) => key));
    return ours.filter((key) => !there.has(key));
  };
  const send = async () => {
    clearTimeout(timer);
    const sent = [];
    const why = await alone(async () =>
      sendEach(
        (await all()).filter((each) => !each.refused),
        sent,
      ),
    );
    await show(why);
    if (!why || why === ANOTHER) tries = 0;
    if (why) sendLater();
    /* What of this page was sent shows there; so does a page that was kept, once there is another. */
    const answered = sent.filter(([{ key }]) => formOf.has(key));
    const ours = new Set([...answered.map(([{ key }]) => key), ...(await gone())]);
    const isOld = kept !== undefined || sent.some(([{ page }]) => page.split("?")[0] === location.pathname);
    if (!ours.size && !(sent.length && isOld)) return;
    const shown = new Map();
    for (const key of ours) for (const [field, value] of formOf.get(key)?.shown ?? []) shown.set(field, value);
    for (const key of ours) formOf.delete(key);
    const [, leadsTo] = answered.at(-1) ?? [];
    window.saving.goTo(leadsTo || here, () => typed.typedSince(null, shown).filter(({ unsent }) => unsent));
  };

  /* A page that comes again shows what waits of it, and what was not taken, to be put right. */
  const filesBack = (form, fields) => {
    for (const field of form.elements) {
      if (field.type !== "file") continue;
      const files = fields.filter(([name, value]) => name === field.name && value instanceof File && value.size);
      const box = new DataTransfer();
      for (const [, file] of files) box.items.add(file);
      field.files = box.files;
    }
  };
  /* What was not taken is put right on the page as it is now. */
  const ofNow = (keptForm) => ({
    ...keptForm,
    typed: keptForm.typed.filter(([name]) => !/(^|-)(version|seen)$/.test(name)),
  });
  const standingIn = (form) => {
    const theirs = typed.stoodIn(form).map(([label, value]) => `${label}: ${value || "nothing"}`);
    return theirs.length ? `What stands there: ${theirs.join("; ")}. ` : "";
  };
  const comeBack = async () => {
    const put = new Set();
    for (const entry of (await all()).reverse()) {
      if (entry.page !== here || (entry.adds && !entry.refused)) continue;
      const place = JSON.stringify([entry.kept.action, entry.kept.place]);
      const form = put.has(place) ? null : typed.putBack(entry.refused ? ofNow(entry.kept) : entry.kept);
      if (!form) continue;
      put.add(place);
      filesBack(form, entry.fields);
      form.dataset.waits = entry.key;
      formOf.set(entry.key, { form, shown: typed.asSent(form) });
      if (entry.refused) typed.mark(form, `Not taken: ${entry.refused} ${standingIn(form)}Look, and save it again.`);
      else typed.mark(form, waitsSince(entry.at), KEPT);
    }
  };

  window.addEventListener("online", () => send());
  addEventListener("pageshow", async () => {
    if ((await all()).some((each) => !each.refused)) await send();
    else await show();
    await comeBack();
  });
})();
