// A reading over an hour, a day or a week, with the points it is judged by, and what was on when.
import { clock, element, limit, shown, unitName } from "/units.js";

const colour = name => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
const faint = (hex, share) => hex + Math.round(share * 255).toString(16).padStart(2, "0");

export class Graph {
  constructor(canvas, strips) {
    this.canvas = canvas;
    this.strips = strips;
    this.span = localStorage.getItem("span") || "hour";
    // The strips stand below the chart, wherever its ends are now.
    new ResizeObserver(() => setTimeout(() => this.refresh(), 100)).observe(strips);
  }

  show(device, part) {
    this.device = device;
    this.part = part;
    return this.refresh();
  }
  setSpan(span) {
    this.span = span;
    localStorage.setItem("span", span);
    return this.refresh();
  }

  async refresh() {
    if (!this.part) return;
    const device = this.device, part = this.part, span = this.span;
    const get = async name => {
      const reply = await fetch(`/api/devices/${device.about.id}/chart?span=${span}&part=${encodeURIComponent(name)}`);
      return reply.ok ? reply.json() : null;
    };
    const all = await Promise.all([get(part.name), ...device.about.outputs.map(one => get(one.name))]);
    // Somebody has chosen another one meanwhile.
    if (device !== this.device || part !== this.part || span !== this.span || !all[0]) return;
    this.draw(all[0]);
    this.drawStrips(all.slice(1));
  }

  draw(data) {
    const unit = this.part.unit;
    const at = i => data.from + (i + 0.5) * data.step;
    const points = list => list.map((value, i) => ({ x: at(i), y: value === null ? null : shown(value, unit) }));
    const ink = colour("--accent"), end = data.from + data.mean.length * data.step;
    const base = { pointRadius: 0, borderWidth: 1, tension: 0, spanGaps: 3 * data.step };
    const sets = [
      { ...base, data: points(data.most), borderColor: "transparent", fill: "+1", backgroundColor: faint(ink, .2) },
      { ...base, data: points(data.least), borderColor: "transparent", fill: false },
      { ...base, data: points(data.mean), borderColor: ink, borderWidth: 2, label: this.part.name },
    ];
    const decided = this.device.about.decisions.filter(one => one.of === this.part.name);
    for (const decision of decided)
      for (const point of decision.points) {
        const level = y => [{ x: data.from, y: shown(y, unit) }, { x: end, y: shown(y, unit) }];
        const copper = colour("--warn");
        const line = { ...base, spanGaps: true };
        sets.push({ ...line, data: level(point.at), borderColor: copper, borderWidth: 1.5, borderDash: [7, 4],
          label: `${point.words} ${limit(point.at, this.part)}`,
          fill: point.at === point.release ? false : "+1", backgroundColor: faint(copper, .1) });
        sets.push({ ...line, data: level(point.release), borderColor: faint(copper, .6), borderDash: [2, 4] });
      }
    const long = this.span === "week";
    const tick = { color: colour("--soft"), font: { size: 12 } };
    const options = {
      animation: false, responsive: true, maintainAspectRatio: false, parsing: false, normalized: true,
      interaction: { mode: "index", intersect: false },
      scales: {
        x: { type: "linear", min: data.from, max: end, grid: { color: colour("--grid") },
          ticks: { ...tick, maxRotation: 0, autoSkipPadding: 18,
            callback: value => long ? `${new Date(value).getDate()}. ${clock(value)}` : clock(value) },
          afterBuildTicks: axis => { axis.ticks = roundTimes(data.from, end, this.canvas.clientWidth).map(value => ({ value })); } },
        // As wide as the names of outputs below it.
        y: { grace: "6%", afterFit: axis => { axis.width = Math.min(120, this.canvas.clientWidth / 4); }, grid: { color: colour("--grid") }, ticks: tick, title: { display: true, text: unitName(unit), color: colour("--soft") } },
      },
      plugins: {
        legend: { display: false },
        tooltip: {
          filter: item => item.datasetIndex === 2,
          callbacks: {
            title: items => items.length ? clock(items[0].parsed.x, true) : "",
            label: item => `${item.parsed.y.toFixed(this.part.digits)} ${unitName(unit)}`,
          },
        },
      },
    };
    const words = {
      id: "words",
      afterDatasetsDraw: chart => {
        const { ctx, chartArea } = chart;
        ctx.save();
        ctx.font = "12px system-ui, sans-serif";
        ctx.fillStyle = colour("--warn");
        ctx.textAlign = "right";
        chart.data.datasets.forEach((set, i) => {
          if (i < 3 || !set.label) return;
          const y = chart.scales.y.getPixelForValue(set.data[0].y);
          if (y > chartArea.top && y < chartArea.bottom) ctx.fillText(set.label, chartArea.right - 6, y - 4);
        });
        ctx.restore();
      },
    };
    this.chart?.destroy();
    this.chart = new window.Chart(this.canvas, { type: "line", data: { datasets: sets }, options, plugins: [words] });
  }

  drawStrips(all) {
    const { left, right } = this.chart.chartArea;
    this.strips.replaceChildren(...all.map((data, row) => {
      const name = this.device.about.outputs[row].name;
      const line = element("div", { class: "strip" });
      const svg = document.createElementNS("http://www.w3.org/2000/svg", "svg");
      const count = data ? data.mean.length : 1;
      svg.setAttribute("viewBox", `0 0 ${count} 14`);
      svg.setAttribute("preserveAspectRatio", "none");
      svg.setAttribute("role", "img");
      svg.setAttribute("aria-label", `When ${name} was on`);
      const add = (x, width, height, name) => {
        const rect = document.createElementNS("http://www.w3.org/2000/svg", "rect");
        for (const [key, value] of Object.entries({ x, y: 14 - height, width, height })) rect.setAttribute(key, value);
        if (name) rect.setAttribute("class", name);
        svg.append(rect);
      };
      // Pieces that are alike and side by side are one.
      const draw = (value, height, name) => {
        for (let i = 0; data && i < count;) {
          let next = i + 1;
          while (next < count && value(next) === value(i)) ++next;
          if (value(i)) add(i, next - i, height(value(i)), name);
          i = next;
        }
      };
      draw(i => data.mean[i] !== null, () => 14, "ground");
      draw(i => Math.round((data.mean[i] || 0) * 14), height => Math.max(height, 2));
      svg.style.left = `${left}px`;
      svg.style.width = `${right - left}px`;
      const label = element("span", { title: name }, name);
      label.style.width = `${Math.max(left - 6, 0)}px`;
      line.append(label, svg);
      return line;
    }));
  }
}

/** Round local times between two, so many as there is room for. */
function roundTimes(from, to, width) {
  const minutes = [5, 10, 15, 30, 60, 120, 180, 360, 720, 1440];
  const most = Math.max(2, Math.floor(width / 90));
  const step = (minutes.find(m => (to - from) / (m * 60000) <= most) || 2880) * 60000;
  const zone = new Date(from).getTimezoneOffset() * 60000;
  const out = [];
  for (let at = Math.ceil((from - zone) / step) * step + zone; at <= to; at += step) out.push(at);
  return out;
}
