/* A save that fails says so at the form and at the top, keeps what was typed, and is sent again; a slow one shows that
   it is going on; who was signed out meanwhile comes back to what was typed. */
"use strict";
(() => {
  const SLOW = 800,
    PATIENCE = 60000,
    WAITS = [2, 4, 8, 15, 30];
  const bar = document.getElementById("saving");
  const who = document.body.dataset.who;
  if (!bar || !who) return;
  const KEPT = "typed and not saved";
  const { typed } = window;
  const { asSent, mark, putBack, putOn, rememberFirst, typedInto, typedSince } = typed;
  const unsent = new Map();
  let tries = 0,
    timer = null;

  const say = (words, kind, ...buttons) => {
    bar.replaceChildren(Object.assign(document.createElement("span"), { textContent: words }));
    for (const [label, act] of buttons) {
      const button = Object.assign(document.createElement("button"), {
        type: "button",
        className: "btn btn-line",
        textContent: label,
      });
      button.addEventListener("click", act);
      bar.append(button);
    }
    bar.className = `saving saving--${kind}`;
    bar.hidden = false;
  };
  const quiet = () => {
    bar.hidden = true;
    bar.replaceChildren();
  };
  window.topBar = { bar, say, quiet };

  const reason = (status) => {
    if (!status) return "no connection";
    if (status === 413) return "what was sent is too large";
    if (status === 403) return "this page was open too long";
    if (status === 404) return "it is no longer there";
    return status < 500 ? `the server refused it (${status})` : `the server broke or is starting again (${status})`;
  };

  /* What could not be sent, by its form: how to send it once more, and whether that is worth trying unasked. What the
     server refused is not: it would be refused again. */
  const sendAll = () => {
    clearTimeout(timer);
    say("Sending again…", "going");
    for (const { send } of [...unsent.values()]) send();
  };
  const leaveAll = () => {
    clearTimeout(timer);
    for (const form of unsent.keys()) mark(form, "Not saved. What you typed stands here; press the button to send it.");
    unsent.clear();
    tries = 0;
    quiet();
  };
  const failed = (form, status, send, byItself) => {
    const why = reason(status);
    unsent.set(form, { send, again: byItself && (!status || status >= 500) });
    mark(form, `Not saved yet: ${why}.`);
    const what = unsent.size > 1 ? `Not saved yet, ${unsent.size} things` : "Not saved yet";
    clearTimeout(timer);
    if ([...unsent.values()].some(({ again }) => again)) {
      const seconds = WAITS[Math.min(tries++, WAITS.length - 1)];
      say(
        `${what}: ${why}. What you typed stays here and is sent again in ${seconds} s.`,
        "failed",
        ["Send now", sendAll],
        ["Don’t send it", leaveAll],
      );
      timer = setTimeout(sendAll, seconds * 1000);
    } else {
      say(`${what}: ${why}. What you typed stays here.`, "failed", ["Send again", sendAll], ["Leave it", leaveAll]);
    }
  };
  const done = (form) => {
    unsent.delete(form);
    mark(form, "");
    if (unsent.size) return;
    clearTimeout(timer);
    tries = 0;
    quiet();
  };

  window.addEventListener("online", () => {
    if (unsent.size) sendAll();
  });
  window.addEventListener("beforeunload", (event) => {
    if (unsent.size) event.preventDefault();
  });

  /* Signed out meanwhile: what was typed waits in this tab, for the same person only. */
  const onTheWay = new Set(); // two answers may send us to the door at once; neither forgets the other's form
  let leaving = false;
  addEventListener("pageshow", () => (leaving = false));
  const toTheDoor = (form, door) => {
    const forms = [form, ...unsent.keys()].reduce((all, each) => all.add(each), onTheWay);
    const kept = [...forms].filter((each) => each instanceof HTMLFormElement).map(typedInto);
    const here = location.pathname + location.search;
    sessionStorage.setItem(KEPT, JSON.stringify({ who, here, kept, meanwhile: typedSince() }));
    unsent.clear();
    typed.left = () => [];
    if (!leaving) location.assign(`${door}?next=${encodeURIComponent(here)}`);
    leaving = true;
  };
  const comeBack = () => {
    const waiting = JSON.parse(sessionStorage.getItem(KEPT) || "null");
    if (!waiting || waiting.here !== location.pathname + location.search) return;
    sessionStorage.removeItem(KEPT);
    if (waiting.who !== who) return;
    waiting.meanwhile.forEach(putOn);
    const forms = waiting.kept.map(putBack).filter(Boolean);
    if (!forms.length) return;
    const files = waiting.kept.some((each) => each.files) ? "; choose the files once more" : "";
    say(`You had been signed out. What you typed stands here again, but is not saved yet${files}.`, "failed", [
      "All right",
      quiet,
    ]);
    forms[0].scrollIntoView({ block: "center" });
  };

  /* A token that has grown old, since somebody signed in anew in another tab. */
  const freshToken = async () => {
    const page = new DOMParser().parseFromString(await (await fetch(location.href)).text(), "text/html");
    const token = page.querySelector("[name=csrfmiddlewaretoken]")?.value;
    if (token)
      document.querySelectorAll("[name=csrfmiddlewaretoken]").forEach((field) => {
        field.value = token;
      });
    return Boolean(token);
  };

  const goTo = (address, meanwhile) => {
    typed.left = meanwhile;
    const there = new URL(address, location.href);
    if (there.pathname + there.search !== location.pathname + location.search) {
      location.assign(there.href);
      return;
    }
    if (there.hash) history.replaceState(null, "", there.href);
    location.reload();
  };

  /* Saved, or a page of ours that says why not (422): anything else is no answer to what was sent. */
  const answered = (answer) => answer !== null && (answer.ok || answer.status === 422);

  /* Away: no connection, or one to a shop that is not there. What waits on the device outlives this page. */
  const isAway = (status) => !status || [502, 503, 504].includes(status);

  const save = async (form, submitter, second = false) => {
    const slow = setTimeout(() => {
      say("Saving…", "going");
      submitter?.setAttribute("aria-busy", "true");
    }, SLOW);
    const slower = setTimeout(
      () => say("Still saving: the answer is slow. Nothing is lost if you wait.", "going"),
      8000,
    );
    const sent = asSent(form),
      at = Date.now();
    const giveUp = new AbortController();
    const tooLong = setTimeout(() => giveUp.abort(), PATIENCE);
    let answer = null,
      page = "";
    try {
      answer = await fetch(form.getAttribute("action") || location.href, {
        method: "POST",
        body: new FormData(form, submitter),
        headers: { "X-Saving": "yes" },
        signal: giveUp.signal,
      });
      if (answered(answer)) page = await answer.text();
    } catch {
      answer = null;
    }
    [slow, slower, tooLong].forEach(clearTimeout);
    submitter?.removeAttribute("aria-busy");
    const status = answer?.status ?? 0;
    if (status === 401) {
      toTheDoor(form, answer.headers.get("X-Sign-In"));
      return;
    }
    if (status === 403 && !second && (await freshToken().catch(() => false))) {
      save(form, submitter, true);
      return;
    }
    if (!answered(answer)) {
      delete form.dataset.saving; // until it is sent, or the page goes
      if (isAway(status) && (await window.away?.keep(form, at, submitter))) {
        unsent.delete(form);
        return;
      }
      failed(
        form,
        status,
        () => {
          form.dataset.saving = "yes";
          save(form, submitter);
        },
        true,
      );
      return;
    }
    done(form);
    if (!answer.headers.get("X-Not-Done")) await window.away?.forget(form);
    const leadsTo = answer.headers.get("X-Leads-To");
    if (leadsTo) {
      /* What followed what is saved now is not put into whatever is asked next. */
      goTo(leadsTo, () => typedSince(form, sent).filter(({ unsent }) => unsent));
      return;
    }
    if (!(answer.headers.get("Content-Type") ?? "").startsWith("text/html") || unsent.size) {
      delete form.dataset.saving;
      typed.left = () => typedSince(form, sent);
      form.submit();
      return;
    }
    /* Not saved, and the page says why: it stands in the place of this one. */
    const meanwhile = typedSince(form, sent);
    rememberFirst(form);
    document.open();
    document.write(page);
    document.close();
    meanwhile.forEach(putOn);
  };

  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (event.defaultPrevented || form.method !== "post" || !form.elements.write_key || form.target) return;
    if (event.submitter?.hasAttribute("formaction")) return;
    event.preventDefault();
    if (form.dataset.saving) return;
    form.dataset.saving = "yes";
    save(form, event.submitter);
  });

  document.addEventListener("signed-out", ({ detail: door }) => toTheDoor(null, door));

  /* What htmx sends. A command to an instrument is never repeated by itself. */
  const sentBy = (event) => (event.detail.requestConfig?.verb === "post" ? event.detail.elt : null);
  const lost = async (event, status) => {
    const element = sentBy(event);
    if (!element) return;
    const form = element.closest("form");
    if (status === 401) {
      toTheDoor(form, event.detail.xhr.getResponseHeader("X-Sign-In"));
      return;
    }
    const began = event.detail.requestConfig.triggeringEvent;
    const target = began?.target?.isConnected ? began.target : element;
    if (isAway(status) && element === form && (await window.away?.keep(form, event.detail.requestConfig.at))) return;
    const send = () => target.dispatchEvent(new Event(began?.type ?? "click", { bubbles: true, cancelable: true }));
    failed(form ?? element, status, send, element === form);
  };
  let slowly = null;
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (!sentBy(event)) return;
    event.detail.requestConfig.at = Date.now();
    slowly ??= setTimeout(() => say("Sending…", "going"), SLOW);
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    clearTimeout(slowly);
    slowly = null;
    if (!sentBy(event)) return;
    const refused = event.detail.xhr.status === 422; // our answer too: it says at the field what is wrong
    if (!event.detail.successful && !refused) return;
    const form = event.detail.elt.closest("form");
    done(form ?? event.detail.elt);
    if (form && !event.detail.xhr.getResponseHeader("X-Not-Done")) window.away?.forget(form);
  });
  document.addEventListener("htmx:sendError", (event) => lost(event, 0));
  document.addEventListener("htmx:timeout", (event) => lost(event, 0));
  document.addEventListener("htmx:responseError", (event) => {
    if (event.detail.xhr.status !== 422) lost(event, event.detail.xhr.status);
  });

  window.addEventListener("pageshow", () =>
    document.querySelectorAll("form[data-saving]").forEach((form) => {
      delete form.dataset.saving;
    }),
  );

  window.saving = { goTo, WAITS };
  comeBack();
})();
