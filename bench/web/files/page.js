// Begins: a session, the devices, and what changes on them.
import { setToken, showSettings, showWhole, updateSettings, updateWhole } from "/act.js";
import { Graph } from "/graph.js";
import { Pass } from "/pass.js";
import { clock, element, isChosen, isFahrenheit, sentence, setFahrenheit, span } from "/units.js";

const by = id => document.getElementById(id);
const devices = new Map();
let current = null;
let chosen = null;

const pass = new Pass(by("pass"), key => {
  chosen = key;
  const part = key?.startsWith("source.") && current.about.sources.find(one => "source." + one.name === key);
  if (part && !part.truth) showGraph(part);
  askWhy();
});
const graph = new Graph(by("canvas"), by("strips"));

// --- how it looks

const themes = ["auto", "light", "dark"];
function applyTheme() {
  const theme = localStorage.getItem("theme") || "auto";
  const dark = theme === "dark" || (theme === "auto" && matchMedia("(prefers-color-scheme: dark)").matches);
  document.documentElement.dataset.theme = dark ? "dark" : "light";
  by("theme").textContent = { auto: "Light or dark", light: "Light", dark: "Dark" }[theme];
  graph.refresh();
}
by("theme").addEventListener("click", () => {
  const now = themes.indexOf(localStorage.getItem("theme") || "auto");
  localStorage.setItem("theme", themes[(now + 1) % themes.length]);
  applyTheme();
});
matchMedia("(prefers-color-scheme: dark)").addEventListener("change", applyTheme);

function applyUnits() {
  by("units").textContent = isFahrenheit() ? "°F" : "°C";
  if (current) showDevice(current);
}
by("units").addEventListener("click", () => {
  setFahrenheit(!isFahrenheit(), true);
  applyUnits();
});

// --- one device

function showDevice(device) {
  current = device;
  chosen = null;
  by("why").hidden = true;
  by("page").hidden = false;
  document.title = `${device.about.name} – Zorilla`;
  for (const tab of by("devices").children) tab.setAttribute("aria-current", tab.dataset.id === device.about.id);
  pass.show(device);
  const parts = device.about.sources.filter(one => !one.truth);
  by("graph-part").replaceChildren(...parts.map(one => element("option", { value: one.name }, one.name)));
  by("graph").hidden = parts.length === 0;
  if (parts.length) showGraph(parts.find(one => one.name === device.graphed) || parts[0]);
  by("settings").hidden = device.about.settings.length === 0;
  showSettings(device, by("settings-list"));
  showWhole(device, by("whole"));
  showStanding();
  showEvents();
}

function showGraph(part) {
  current.graphed = part.name;
  by("graph-part").value = part.name;
  by("graph-name").textContent = part.name;
  for (const button of by("spans").children) button.setAttribute("aria-pressed", button.dataset.span === graph.span);
  graph.show(current, part);
}
by("graph-part").addEventListener("change", event =>
  showGraph(current.about.sources.find(one => one.name === event.target.value)));
for (const button of by("spans").children)
  button.addEventListener("click", () => {
    graph.setSpan(button.dataset.span);
    for (const other of by("spans").children) other.setAttribute("aria-pressed", other === button);
  });
setInterval(() => { if (!document.hidden) graph.refresh(); }, 5000);

function standingOf(device) {
  const state = device.parts.device;
  if (!state) return { text: "waiting", bad: false };
  if (state.line) return { text: `its port ${state.line}`, bad: true };
  if (state.silent) return { text: `nothing has come for ${span(state.silent * 1000)}`, bad: true };
  const counts = [
    state.damaged ? `${state.damaged} damaged` : "", state.missed ? `${state.missed} passes not seen` : ""].filter(Boolean);
  return { text: [state.on ? `on for ${span(state.on * 1000)}` : "", state.state, ...counts].filter(Boolean).join(", "), bad: !state.good };
}
function showStanding() {
  const { text, bad } = standingOf(current);
  by("standing").classList.toggle("bad", bad);
  if (by("standing-text").textContent !== text) by("standing-text").textContent = text;
}

function eventLine(event) {
  const time = element("time", { datetime: new Date(event.time).toISOString(), title: clock(event.time, true) }, clock(event.time));
  const what = event.who
    ? element("span", {}, event.who + " ", element("b", {}, sentence(event.what)))
    : element("b", {}, sentence(event.what));
  const line = element("li", { class: event.good ? "" : "bad" }, time, what);
  if (event.reason) line.append(element("span", { class: "reason" }, sentence(event.reason)));
  return line;
}
function showEvents() {
  by("events-list").replaceChildren(...current.events.slice(-100).reverse().map(eventLine));
}

async function askWhy() {
  by("why").hidden = chosen === null;
  if (chosen === null) return;
  const key = chosen, device = current;
  by("why-name").textContent = `Why ${key.slice(key.indexOf(".") + 1)} is as it is`;
  const reply = await fetch(`/api/devices/${device.about.id}/why?part=${encodeURIComponent(key)}`);
  const said = await reply.json();
  if (key !== chosen || device !== current) return;
  by("why-text").replaceChildren(...(said.answer ?? said.error).split("\n").map(text => {
    const line = element("p", {}, sentence(text.trim()));
    line.style.setProperty("--in", Math.floor((text.length - text.trimStart().length) / 2));
    return line;
  }));
}
by("why-close").addEventListener("click", () => pass.choose(chosen));
setInterval(() => { if (!document.hidden && chosen) askWhy(); }, 2000);

// --- all devices

function take(change, isFirst) {
  const device = devices.get(change.id);
  if (!device) return;
  if (isFirst) {
    device.parts = {};
    device.events = [];
  }
  Object.assign(device.parts, change.parts);
  device.events.push(...change.events);
  device.events.splice(0, Math.max(0, device.events.length - 200));
  device.tab.classList.toggle("troubled", standingOf(device).bad);
  if (device !== current) return;
  for (const key of Object.keys(change.parts)) pass.update(key);
  showStanding();
  updateSettings(device, by("settings-list"));
  updateWhole(device, by("whole"));
  if (isFirst) showEvents();
  else
    for (const event of change.events) {
      by("events-list").prepend(eventLine(event));
      if (by("events-list").children.length > 100) by("events-list").lastChild.remove();
    }
}

function listen() {
  const stream = new EventSource("/api/changes");
  let first = new Set();
  stream.addEventListener("open", () => {
    first = new Set(devices.keys());
    by("lost").hidden = true;
  });
  stream.addEventListener("error", () => {
    by("lost").hidden = false;
    // What refuses us will not have us again by itself.
    if (stream.readyState === EventSource.CLOSED) setTimeout(begin, 2000);
  });
  stream.addEventListener("message", message => {
    const change = JSON.parse(message.data);
    take(change, first.delete(change.id));
  });
}

async function begin() {
  let reply;
  try {
    reply = await fetch("/api/session", {
      method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ phrase: by("phrase-text").value }),
    });
  } catch {
    by("lost").hidden = false;
    setTimeout(begin, 2000);
    return;
  }
  const said = await reply.json();
  if (!reply.ok) {
    by("phrase-problem").textContent = by("phrase").open ? said.error : "";
    if (!by("phrase").open) by("phrase").showModal();
    return;
  }
  by("phrase").close();
  by("phrase-text").value = "";
  setToken(said.token);
  const all = await (await fetch("/api/devices")).json();
  devices.clear();
  by("devices").replaceChildren(...all.map(about => {
    const tab = element("button", { type: "button", "data-id": about.id, onclick: () => showDevice(devices.get(about.id)) }, about.name);
    devices.set(about.id, { about, parts: {}, events: [], tab });
    return tab;
  }));
  if (!isChosen()) setFahrenheit(all.every(about => about.show.includes("degF")) && all.length > 0, false);
  by("units").textContent = isFahrenheit() ? "°F" : "°C";
  showDevice(devices.get(current?.about.id) || devices.values().next().value);
  listen();
}
by("phrase-form").addEventListener("submit", event => {
  event.preventDefault();
  begin();
});

applyTheme();
begin();
