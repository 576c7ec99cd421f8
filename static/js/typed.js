/* What was typed into the forms of a page and is not saved, and how it is put on the page that takes its place. */
"use strict";
(() => {
  const OF_THE_PAGE = ["csrfmiddlewaretoken", "write_key"];
  const sameAction = (action) =>
    [...document.forms].filter((form) => form.method === "post" && (form.getAttribute("action") || "") === action);
  /* All that a form holds, as it would be sent. */
  const typedInto = (form) => {
    const action = form.getAttribute("action") || "";
    return {
      action,
      place: sameAction(action).indexOf(form),
      typed: [...new FormData(form)].filter(
        ([name, value]) => typeof value === "string" && !OF_THE_PAGE.includes(name),
      ),
      files: [...form.elements].some((field) => field.type === "file" && field.files.length),
    };
  };

  /* What was typed or chosen elsewhere on a page that is about to be replaced, and into the form itself since it was
     sent. It stands again in the field that asks the same of the same thing and still shows what it showed before. */
  const PICKED = ["checkbox", "radio"];
  const SEVERAL = "select-multiple";
  const listed = (options) => JSON.stringify([...options].map(({ value }) => value));
  const shownIn = (field) => {
    if (field.type === SEVERAL) return listed(field.selectedOptions);
    return PICKED.includes(field.type) ? field.checked : field.value;
  };
  const filledIn = (field) => {
    if (PICKED.includes(field.type)) return field.defaultChecked;
    if (!field.options) return field.defaultValue;
    const chosen = [...field.options].filter((each) => each.defaultSelected);
    return field.type === SEVERAL ? listed(chosen) : (chosen[0] ?? field.options[0])?.value;
  };
  const show = (field, now) => {
    if (field.type === SEVERAL) for (const each of field.options) each.selected = JSON.parse(now).includes(each.value);
    else if (PICKED.includes(field.type)) field.checked = now;
    else field.value = now;
  };
  const asked = (form) =>
    [...form.elements].filter(
      ({ name, type }) => name && !["hidden", "file", "submit", "button", "password", "fieldset"].includes(type),
    );
  const askedOf = (form) =>
    JSON.stringify([
      form.getAttribute("action") || "",
      ...[...form.elements]
        .filter(({ name, type }) => type === "hidden" && ![...OF_THE_PAGE, "version"].includes(name))
        .map(({ name, value }) => [name, value]),
    ]);
  const ours = () => [...document.forms].filter((form) => form.method === "post" && form.elements.write_key);
  const askingOf = (what) => ours().filter((form) => askedOf(form) === what);
  const named = (form, name) => asked(form).filter((field) => field.name === name);
  const calledIn = (field) => ({ name: field.name, at: named(field.form, field.name).indexOf(field) });
  const caretIn = (field) => (field === document.activeElement ? [field.selectionStart, field.selectionEnd] : null);
  const differing = (wasShown, sentForm) =>
    ours()
      .map((form) => {
        const what = askedOf(form);
        const fields = asked(form)
          .map((field) => ({ ...calledIn(field), was: wasShown(field), now: shownIn(field), caret: caretIn(field) }))
          .filter((field) => field.was !== field.now);
        return { what, place: askingOf(what).indexOf(form), fields, unsent: form !== sentForm };
      })
      .filter(({ fields }) => fields.length);
  const typedSince = (sentForm, sent) => differing((field) => sent?.get(field) ?? filledIn(field), sentForm);

  /* A page that says why something was not saved shows what was typed as its own. What stood there first outlives it, in
     the window that it is written into. */
  const shownFirst = (window.shownFirst ??= new Map());
  const placeOf = (field) => {
    const what = askedOf(field.form);
    return JSON.stringify([what, askingOf(what).indexOf(field.form), calledIn(field)]);
  };
  const neverSaved = () => differing((field) => shownFirst.get(placeOf(field)) ?? filledIn(field));
  const putOn = ({ what, place, fields, unsent }) => {
    const form = askingOf(what)[place];
    if (!form) return;
    const covered = [];
    for (const { name, at, was, now, caret } of fields) {
      const field = named(form, name)[at];
      if (!field) continue;
      if (filledIn(field) !== was) {
        if (now && filledIn(field) !== now && !PICKED.includes(field.type) && !field.options) covered.push(now);
        continue;
      }
      show(field, now);
      unfold(form);
      if (unsent) mark(form, "Not saved yet.");
      if (!caret) continue;
      field.dataset.typing = ""; // the next letter belongs here, whatever else is wrong
      field.focus();
      if (Number.isInteger(caret[0])) field.setSelectionRange(...caret);
    }
    if (!unsent || !covered.length) return;
    unfold(form);
    mark(form, `Not saved yet. Something else stands there by now; you had typed: ${covered.join("; ")}`);
  };
  const unfold = (form) => {
    for (let around = form.closest("details"); around; around = around.parentElement.closest("details"))
      around.open = true;
  };
  const rememberFirst = (form) => {
    for (const field of asked(form))
      if (!shownFirst.has(placeOf(field))) shownFirst.set(placeOf(field), filledIn(field));
  };
  const asSent = (form) => new Map(asked(form).map((field) => [field, shownIn(field)]));

  const putBack = ({ action, place, typed }) => {
    const form = sameAction(action)[place];
    if (!form) return null;
    const values = new Map();
    typed.forEach(([name, value]) => values.set(name, [...(values.get(name) ?? []), value]));
    for (const field of form.elements) {
      if (!field.name || ["file", "submit"].includes(field.type) || OF_THE_PAGE.includes(field.name)) continue;
      const given = values.get(field.name) ?? [];
      if (field.type === SEVERAL) show(field, JSON.stringify(given));
      else if (PICKED.includes(field.type)) show(field, given.includes(field.value));
      else if (given.length) show(field, given.shift());
    }
    unfold(form);
    mark(form, "Not saved yet.");
    return form;
  };

  /* Beside the form itself too: on a long page the top may be out of sight. */
  const mark = (form, words, kind = "field__error") => {
    form?.querySelector("[data-unsaved]")?.remove();
    if (!form || !words) return;
    const line = Object.assign(document.createElement("p"), { className: kind, textContent: words });
    line.dataset.unsaved = "";
    form.append(line);
  };

  /* What somebody typed or chose in a form, in words: for the one who has to put it right later. */
  const labelOf = (field) => field.labels?.[0]?.innerText.trim() ?? field.name;
  const inWords = (field) => {
    if (PICKED.includes(field.type)) return field.checked ? "yes" : "no";
    if (field.options) return [...field.selectedOptions].map(({ text }) => text.trim()).join(", ");
    return field.value;
  };
  const changedIn = (form) =>
    asked(form).filter((field) => shownIn(field) !== filledIn(field) && !(field.type === "radio" && !field.checked));
  const saidIn = (form) => [
    ...changedIn(form).map((field) => [labelOf(field), inWords(field)]),
    ...[...form.elements]
      .filter(({ type, files }) => type === "file" && files.length)
      .map((field) => [labelOf(field), [...field.files].map(({ name }) => name).join(", ")]),
  ];

  /* What the page shows of the same, where that can be told in words. */
  const stoodIn = (form) =>
    changedIn(form)
      .filter(({ type }) => !PICKED.includes(type) && type !== SEVERAL)
      .map((field) => {
        const stood = filledIn(field);
        return [labelOf(field), [...(field.options ?? [])].find(({ value }) => value === stood)?.text.trim() ?? stood];
      });

  /* `left`: what is not saved once the page goes. Whoever saves, or keeps it in another way, says otherwise. */
  window.typed = {
    asSent,
    left: neverSaved,
    mark,
    putBack,
    putOn,
    rememberFirst,
    saidIn,
    stoodIn,
    typedInto,
    typedSince,
  };
})();
