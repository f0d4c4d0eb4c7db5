// The picture of a pass: from what is sensed to what is driven, and which moved which.
import { breakable, element, quantity, sentence, span } from "/units.js";
import { takeOver } from "/act.js";

const names = { sense: "Sense", derive: "Derive", decide: "Decide", drive: "Drive" };

/** Without what is of the converter: that stands where somebody stays for a moment. */
const brief = about => about.replace(/ \(code \d+\)/g, "").replace(/: hysteresis of \d+ counts?/g, "");

export class Pass {
  /** @param chose  told the key of the card that somebody has chosen; null: none any more */
  constructor(root, chose) {
    this.root = root;
    this.chose = chose;
    new ResizeObserver(() => this.wire()).observe(root);
  }

  show(device) {
    this.device = device;
    this.cards = new Map();
    this.chosen = null;
    this.root.classList.remove("chosen");
    this.lines = document.createElementNS("http://www.w3.org/2000/svg", "svg");
    this.lines.setAttribute("aria-hidden", "true");
    const columns = new Map();
    for (const key of Object.keys(names))
      columns.set(key, element("div", { class: "column " + key }, element("h2", {}, names[key])));
    const add = (column, key, part, from) => {
      const card = {
        key, part, from,
        is: element("span", { class: "is" }),
        more: element("div", { class: "more" }),
        act: element("div", { class: "act" }),
      };
      card.root = element("div", { class: "card", "data-key": key },
        element("div", { class: "head" },
          element("button", { class: "name", type: "button", onclick: () => this.choose(key) }, ...breakable(part.name)), card.is),
        card.more, card.act);
      this.cards.set(key, card);
      columns.get(column).append(card.root);
    };
    const about = device.about;
    for (const one of about.sources) add(one.column, "source." + one.name, one, one.from);
    for (const one of about.decisions) add("decide", "decision." + one.name, one, one.from);
    for (const one of about.machines) add("decide", "machine." + one.name, one, one.from);
    for (const one of about.outputs) add("drive", "output." + one.name, one, [...new Set(one.claims.flat())]);
    this.root.replaceChildren(this.lines,
      ...[...columns.values()].filter(column => column.children.length > 1));
    for (const key of this.cards.keys()) this.update(key);
    this.wire();
  }

  update(key) {
    const card = this.cards.get(key);
    const state = this.device.parts[key];
    if (!card) return;
    const kind = key.split(".", 1)[0];
    const mark = (...classes) => {
      card.root.className = ["card", ...classes, ...["lit", "chosen-one"].filter(c => card.root.classList.contains(c))].join(" ");
    };
    if (!state) {
      card.is.textContent = "…";
    } else if (kind === "source") {
      const truth = card.part.truth;
      card.is.textContent = state.value === undefined ? state.health
        : truth ? (state.value ? "yes" : "no") : quantity(state.value, card.part);
      mark(state.health !== "ok" ? "bad" : truth && state.value ? "on" : "calm");
      card.more.textContent = "";
    } else if (kind === "output") {
      this.updateOutput(card, state, mark);
    } else {
      card.is.textContent = state.is;
      mark(state.is === "unknown" ? "bad" : state.is === "yes" ? "on" : "calm");
      const about = sentence(card.part.about || "");
      card.more.textContent = brief(about);
      card.more.title = about;
    }
    this.light();
  }

  updateOutput(card, state, mark) {
    card.is.textContent = state.open ? "open" : state.is;
    const troubled = state.by === "safe" || state.by === "guard" || state.differs;
    mark(state.by === "hand" ? "hand" : troubled ? "bad" : state.on ? "on" : "calm");
    const why = state.differs ? `the rig file would have it ${state.differs}` : state.why || "";
    card.more.textContent = sentence(why);
    card.more.title = card.more.textContent;
    // What somebody is typing into stays as it is.
    const stands = state.left === undefined ? "automatic" : "by hand";
    if (card.stands !== stands) {
      card.stands = stands;
      takeOver(this.device, card.part, stands === "by hand", card.act);
    }
    const by = card.act.querySelector(".by");
    if (by && state.left !== undefined) by.textContent = `by hand, ${span(state.left)} left`;
  }

  choose(key) {
    this.chosen = key === this.chosen ? null : key;
    this.light();
    this.chose(this.chosen);
  }

  /** The keys on every way that leads to a part, or from it. */
  way(key) {
    const out = new Set([key]);
    const up = at => { for (const from of this.cards.get(at)?.from || []) if (!out.has(from)) { out.add(from); up(from); } };
    const down = at => {
      for (const card of this.cards.values())
        if (card.from.includes(at) && !out.has(card.key)) { out.add(card.key); down(card.key); }
    };
    up(key);
    if (!key.startsWith("output.")) down(key);
    return out;
  }

  light() {
    this.root.classList.toggle("chosen", this.chosen !== null);
    const way = this.chosen === null ? new Set() : this.way(this.chosen);
    for (const card of this.cards.values()) {
      card.root.classList.toggle("lit", way.has(card.key));
      card.root.classList.toggle("chosen-one", card.key === this.chosen);
      card.root.querySelector(".name").setAttribute("aria-pressed", card.key === this.chosen);
    }
    for (const line of this.lines.children) {
      line.classList.toggle("lit", way.has(line.dataset.from) && way.has(line.dataset.to));
      line.classList.toggle("live", this.isLive(line.dataset.from, line.dataset.to));
    }
  }

  /** Whether a part has its say in what another one is now. */
  isLive(from, to) {
    const state = this.device.parts[to];
    if (!state) return false;
    if (to.startsWith("output.")) {
      const claims = this.cards.get(to).part.claims;
      return state.claim !== undefined && state.on && (claims[state.claim] || []).includes(from);
    }
    const is = this.device.parts[from];
    return to.startsWith("decision.") && state.is === "yes" && is !== undefined && (is.is === undefined || is.is === "yes");
  }

  /** Draws the lines between cards, where they stand now. */
  wire() {
    if (!this.device) return;
    const box = this.root.getBoundingClientRect();
    const lines = [];
    for (const card of this.cards.values())
      for (const from of card.from) {
        const other = this.cards.get(from);
        if (!other) continue;
        const a = other.root.getBoundingClientRect(), b = card.root.getBoundingClientRect();
        const same = Math.abs(a.left - b.left) < 10;
        const x1 = (same ? a.left : a.right) - box.left, y1 = a.top + a.height / 2 - box.top;
        const x2 = b.left - box.left, y2 = b.top + b.height / 2 - box.top;
        const bend = same ? -22 : (x2 - x1) / 2;
        const line = document.createElementNS("http://www.w3.org/2000/svg", "path");
        line.setAttribute("d", `M${x1},${y1} C${x1 + bend},${y1} ${x2 - (same ? -bend : bend)},${y2} ${x2},${y2}`);
        line.dataset.from = from;
        line.dataset.to = card.key;
        lines.push(line);
      }
    this.lines.replaceChildren(...lines);
    this.light();
  }
}
