"use strict";
// The ground crew's phone: records are kept on it first and sent when somebody answers, each once by its id.
(async () => {
  const body = document.body;
  const words = JSON.parse(body.dataset.words);
  const PAGES = "cantrel-pages";
  const all = (selector, from = document) => [...from.querySelectorAll(selector)];
  const one = (selector, from = document) => from.querySelector(selector);

  // --- what is kept on this phone -----------------------------------------------------------------------------------
  let kept = null;
  try {
    kept = await idb.openDB("cantrel", 1, {
      upgrade(db) {
        db.createObjectStore("queue", { keyPath: "uid" });
        db.createObjectStore("drafts");
      },
    });
  } catch {
    // Nothing can be kept here: what is written goes out at once, or is said not to.
  }
  const memory = new Map();
  const queue = {
    all: async () => (kept ? kept.getAll("queue") : [...memory.values()]),
    put: async (row) => (kept ? kept.put("queue", row) : memory.set(row.uid, row)),
    drop: async (uid) => (kept ? kept.delete("queue", uid) : memory.delete(uid)),
  };
  const draft = {
    get: async (key) => (kept ? kept.get("drafts", key) : undefined),
    put: async (key, values) => kept && kept.put("drafts", values, key),
    drop: async (key) => kept && kept.delete("drafts", key),
  };

  const newId = () => {
    const bytes = crypto.getRandomValues(new Uint8Array(16));
    bytes[6] = (bytes[6] & 0x0f) | 0x40;
    bytes[8] = (bytes[8] & 0x3f) | 0x80;
    const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
    return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
  };
  const fill = (text, ...values) => values.reduce((said, value) => said.replace("%s", value), text);

  // --- sending ------------------------------------------------------------------------------------------------------
  const whoIsHere = async () => {
    const answer = await fetch(body.dataset.ready, { headers: { Accept: "application/json" }, cache: "no-store" });
    const json = (answer.headers.get("Content-Type") || "").includes("json");
    return answer.ok && json && !answer.redirected ? answer.json() : null;
  };

  const post = async (row, token) => {
    const data = new FormData();
    for (const [name, value] of Object.entries(row.fields)) data.append(name, value);
    data.append("uid", row.uid);
    if (row.photo) data.append("photo", row.photo, row.photo.name || "photo.jpg");
    const headers = { "X-CSRFToken": token, "X-Requested-With": "fetch", Accept: "application/json" };
    return fetch(row.to, { method: "POST", body: data, headers });
  };

  // Refused ones wait for a person; what was not answered waits for a signal.
  const send = async (row, token) => {
    const answer = await post(row, token);
    const json = (answer.headers.get("Content-Type") || "").includes("json");
    if (answer.ok && json && !answer.redirected) {
      await queue.drop(row.uid);
      return { row, ...(await answer.json()) };
    }
    if (answer.status >= 400 && answer.status < 500 && ![401, 403, 408, 429].includes(answer.status)) {
      const said = json ? (await answer.json()).said : `${answer.status}`;
      await queue.put({ ...row, state: "refused", said });
      return { row, state: "refused", said };
    }
    return { row, state: "waiting" };
  };

  let sending = null;
  const flush = () => {
    sending ||= sendAll().finally(() => {
      sending = null;
    });
    return sending;
  };
  const sendAll = async () => {
    const rows = (await queue.all()).filter((row) => row.state !== "refused");
    const done = [];
    if (!rows.length) return done;
    try {
      const here = await whoIsHere();
      signal(true);
      if (!here) {
        said(words.signin, "over", body.dataset.signIn + "?next=" + encodeURIComponent(location.pathname));
        return done;
      }
      for (const row of rows) {
        if (row.person === String(here.person)) done.push(await send(row, here.token));
      }
    } catch {
      signal(false);
    }
    await showWaiting();
    return done;
  };

  // --- what the page says -------------------------------------------------------------------------------------------
  const outcome = one("[data-outcome]");
  const said = (text, shape, href = "") => {
    if (!outcome) return;
    outcome.hidden = false;
    outcome.className = `say ${shape}`;
    outcome.textContent = text;
    if (href) {
      const link = Object.assign(document.createElement("a"), { href, textContent: "›" });
      outcome.append(" ", link);
    }
  };
  const signal = (there) => {
    const line = one("[data-signal]");
    if (line) line.textContent = there ? "" : words.offline;
    body.classList.toggle("nosignal", !there);
  };

  const showWaiting = async () => {
    const rows = await queue.all();
    for (const state of all("[data-state]")) {
      const mine = rows.find((row) => row.fields.pick === state.dataset.state && row.to === thisTree());
      if (mine) state.textContent = mine.state === "refused" ? words.refused : fill(words.n_waiting, 1);
    }
    const box = one("[data-waiting]");
    if (!box) return;
    box.hidden = !rows.length;
    const list = one("ul", box);
    list.textContent = "";
    for (const row of rows) list.append(waitingLine(row));
  };
  const thisTree = () => location.pathname.replace(/crew\/.*$/, "record/work/");

  const waitingLine = (row) => {
    const line = document.createElement("li");
    const why = row.state === "refused" ? `${words.refused} ${row.said}` : words.waiting;
    const whose = row.person === body.dataset.person ? why : `${words.other} ${row.name}`;
    line.append(Object.assign(document.createElement("b"), { textContent: row.fields.what || row.fields.pick }), ` ${whose} `);
    if (row.state === "refused" && row.person === body.dataset.person) {
      line.append(button(words.again, () => change(row)), button(words.drop, () => throwAway(row)));
    }
    return line;
  };
  const button = (text, act) => {
    const found = Object.assign(document.createElement("button"), { type: "button", className: "button small", textContent: text });
    found.addEventListener("click", act);
    return found;
  };
  const change = async (row) => {
    await draft.put(row.page, { ...row.fields, photo: row.photo });
    await queue.drop(row.uid);
    location.href = row.page;
  };
  const throwAway = async (row) => {
    if (!confirm(words.sure)) return;
    await queue.drop(row.uid);
    await showWaiting();
  };

  // --- the record's form --------------------------------------------------------------------------------------------
  const form = one("[data-record]");
  const local = (date) => new Date(date.getTime() - date.getTimezoneOffset() * 60000).toISOString().slice(0, 19);
  const clock = () => {
    for (const time of all("[data-time]")) {
      const value = form.elements[time.dataset.time].value;
      one("b", time).textContent = value ? value.slice(11, 16) : "";
    }
  };
  const values = () => {
    const found = {};
    for (const element of form.elements) {
      if (element.name && !["file", "submit", "button"].includes(element.type)) found[element.name] = element.value;
    }
    delete found.csrfmiddlewaretoken;
    return found;
  };

  if (form) {
    const before = await draft.get(location.pathname);
    for (const [name, value] of Object.entries(before || {})) {
      const element = form.elements[name];
      if (element && element.type !== "file" && !["pick", "what", "units", "uid"].includes(name)) element.value = value;
    }
    if (before) one("details", form).open = Object.entries(before).some(([name, value]) => value && !["pick", "what", "units", "uid", "started", "ended", "done"].includes(name));
    clock();
    form.addEventListener("input", () => {
      clock();
      draft.put(location.pathname, values());
    });
    for (const time of all("[data-time]")) {
      time.addEventListener("click", () => {
        form.elements[time.dataset.time].value = local(new Date());
        clock();
        draft.put(location.pathname, values());
      });
    }
    form.addEventListener("submit", async (event) => {
      event.preventDefault();
      const fields = { ...values(), done: event.submitter ? event.submitter.value : "planned" };
      for (const name of ["started", "ended"]) {
        if (fields[name]) fields[name] = new Date(fields[name]).toISOString();
      }
      const photo = form.elements.photo.files[0] || null;
      delete fields.uid;
      const row = { uid: newId(), to: form.getAttribute("action"), page: location.pathname, fields, photo };
      await queue.put({ ...row, person: body.dataset.person, name: body.dataset.name, state: "waiting" });
      form.reset();
      clock();
      await draft.drop(location.pathname);
      said(words.waiting, "near");
      const done = (await flush()).find((answer) => answer.row.uid === row.uid);
      if (!done || done.state === "waiting") return;
      if (done.state === "refused") {
        await change({ ...row, said: done.said });
        return;
      }
      said(done.said, done.state === "clash" ? "over" : "within");
    });
  }

  // --- who I am -----------------------------------------------------------------------------------------------------
  const chips = all("button[data-role]");
  const me = (role) => {
    for (const chip of chips) chip.setAttribute("aria-pressed", String(chip.dataset.role === role));
    for (const person of all(".crewground .person")) person.classList.toggle("isme", person.dataset.role === role);
    const chosen = chips.find((chip) => chip.dataset.role === role);
    const line = one("[data-you]");
    if (line && chosen) line.textContent = `${body.dataset.name}, ${chosen.firstChild.textContent.trim().toLowerCase()}`;
  };
  for (const chip of chips) {
    chip.addEventListener("click", () => {
      localStorage.setItem("cantrel-role", chip.dataset.role);
      me(chip.dataset.role);
    });
  }
  me(localStorage.getItem("cantrel-role") || "");

  // --- without a signal ---------------------------------------------------------------------------------------------
  const main = one("[data-keep]");
  const keptLine = one("[data-kept]");
  if (!("serviceWorker" in navigator) || !window.isSecureContext) {
    if (keptLine) keptLine.textContent = words.nokeep;
  } else if (main) {
    const addresses = main.dataset.keep.split(" ");
    navigator.serviceWorker.addEventListener("message", ({ data }) => {
      if (keptLine && data.of) keptLine.textContent = fill(words.kept, data.kept, data.of);
    });
    await navigator.serviceWorker.register(body.dataset.worker, { scope: "/" });
    const worker = await navigator.serviceWorker.ready;
    const there = (await (await caches.open(PAGES)).keys()).map((request) => new URL(request.url).pathname);
    const missing = addresses.filter((address) => !there.includes(address));
    if (keptLine || missing.length) worker.active.postMessage({ keep: keptLine ? addresses : missing });
  }

  window.addEventListener("online", flush);
  setInterval(flush, 15000);
  await showWaiting();
  await flush();
})();
