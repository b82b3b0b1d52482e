import { inks } from "./inks.js";

// A trace on a canvas, to zoom and pan by mouse, touch and keys. The server has a pyramid of
// least and greatest: a stretch of any length comes in as many columns as the canvas has. What
// is at hand is drawn at once, stretched; what is asked for meanwhile takes its place.
const CENTI = 0.01;
const LEFT = 46;
const FOOT = 26;
const HEAD = 16;

export const trace = () => ({
  waiting: true,
  read: "",
  data: null, // of a stretch, or of a cycle
  want: null,
  asking: false,
  held: new Map(), // pointers that are down
  moved: false,
  a: null,
  b: null,

  init() {
    const set = this.$root.dataset;
    const figures = Object.fromEntries(["from", "to", "seconds", "cycle", "cycles", "before", "after", "channel", "cylinder"].map((k) => [k, Number(set[k])]));
    this.kind = set.kind;
    this.address = set.at;
    this.single = this.kind === "trace";
    Object.assign(this, { limit: figures.seconds, cycle: figures.cycle, cycles: figures.cycles, channel: figures.channel, cylinder: figures.cylinder });
    // A stretch is in seconds of the capture, or in milliseconds about each peak.
    this.start = this.single ? { from: figures.from, to: figures.to } : { from: -figures.before, to: figures.after };
    this.view = { ...this.start };
    this.canvas = this.$refs.canvas;
    const board = this.$refs.board;
    new ResizeObserver(() => this.fit()).observe(board);
    matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => {
      this.colours = null;
      this.soon();
    });
    board.addEventListener("wheel", (event) => {
      event.preventDefault();
      this.zoom(event.deltaY > 0 ? 1.25 : 0.8, this.place(event));
    }, { passive: false });
    board.addEventListener("pointerdown", (event) => this.down(event));
    board.addEventListener("pointermove", (event) => this.drag(event));
    for (const name of ["pointerup", "pointercancel", "pointerleave"]) board.addEventListener(name, (event) => this.up(event));
    this.fit();
    this.ask();
  },

  fit() {
    const wide = this.$refs.board.clientWidth;
    const tall = this.kind === "stack" ? Math.max(260, 40 * Math.max(1, this.data?.shapes?.length || 6) + FOOT) : 300;
    const dense = Math.min(2, devicePixelRatio || 1);
    this.wide = wide;
    this.tall = tall;
    this.canvas.width = wide * dense;
    this.canvas.height = tall * dense;
    this.canvas.style.width = `${wide}px`;
    this.canvas.style.height = `${tall}px`;
    this.dense = dense;
    this.soon();
  },

  // What a place on the board is, of the stretch from 0 to 1.
  place(event) {
    const box = this.canvas.getBoundingClientRect();
    return Math.min(1, Math.max(0, (event.clientX - box.left - LEFT) / (this.wide - LEFT - 8)));
  },

  down(event) {
    this.held.set(event.pointerId, event.clientX);
    this.moved = false;
    this.$refs.board.setPointerCapture(event.pointerId);
  },

  drag(event) {
    if (!this.held.has(event.pointerId)) return;
    const width = this.wide - LEFT - 8;
    if (this.held.size === 1) {
      const by = event.clientX - this.held.get(event.pointerId);
      if (Math.abs(by) < 3 && !this.moved) return;
      this.moved = true;
      this.held.set(event.pointerId, event.clientX);
      this.pan((-by / width) * (this.view.to - this.view.from));
      return;
    }
    const before = this.apart();
    this.held.set(event.pointerId, event.clientX);
    const after = this.apart();
    this.moved = true;
    if (before > 10 && after > 10) this.zoom(before / after, 0.5);
  },

  apart() {
    const at = [...this.held.values()];
    return Math.abs(at[0] - at[1]);
  },

  up(event) {
    if (!this.held.delete(event.pointerId) || this.moved || event.type !== "pointerup") return;
    const at = this.view.from + this.place(event) * (this.view.to - this.view.from);
    this[event.shiftKey ? "b" : "a"] = at;
    this.soon();
  },

  press(event) {
    if (event.ctrlKey || event.altKey || event.metaKey) return;
    const span = this.view.to - this.view.from;
    const middle = this.view.from + span / 2;
    const does = {
      ArrowLeft: () => this.pan(-span / 8),
      ArrowRight: () => this.pan(span / 8),
      "+": () => this.zoom(0.8, 0.5),
      "=": () => this.zoom(0.8, 0.5),
      "-": () => this.zoom(1.25, 0.5),
      Home: () => this.whole(),
      PageUp: () => this.earlier(),
      PageDown: () => this.later(),
      a: () => { this.a = middle; this.soon(); },
      b: () => { this.b = middle; this.soon(); },
    }[event.key];
    if (!does) return;
    event.preventDefault();
    event.stopPropagation();
    does();
  },

  left() { this.pan((this.view.from - this.view.to) / 4); },
  right() { this.pan((this.view.to - this.view.from) / 4); },
  closer() { this.zoom(0.7, 0.5); },
  wider() { this.zoom(1.4, 0.5); },

  whole() {
    this.view = this.single ? { from: 0, to: this.limit } : { ...this.start };
    this.ask();
  },

  earlier() { this.step(-1); },
  later() { this.step(1); },

  // step goes to the event or the cycle beside this one.
  async step(by) {
    if (!this.single) {
      this.cycle = Math.min(this.cycles - 1, Math.max(0, this.cycle + by));
      this.ask();
      return;
    }
    const middle = (this.view.from + this.view.to) / 2;
    const reach = 0.5;
    const from = Math.max(0, by > 0 ? middle : middle - reach);
    const to = Math.min(this.limit, by > 0 ? middle + reach : middle);
    if (to <= from) return;
    const near = await this.get(`window?${new URLSearchParams({ channel: this.channel, from, to, columns: 1 })}`);
    const half = (this.view.to - this.view.from) / 2;
    const events = (near?.events || []).filter((e) => Math.abs(e.at - middle) > 0.0005);
    const next = by > 0 ? events[0] : events[events.length - 1];
    if (!next) return;
    this.view = { from: Math.max(0, next.at - half), to: Math.min(this.limit, next.at + half) };
    this.ask();
  },

  pan(by) {
    const span = this.view.to - this.view.from;
    const low = this.single ? 0 : -200;
    const high = this.single ? this.limit : 200;
    const from = Math.min(high - span, Math.max(low, this.view.from + by));
    this.view = { from, to: from + span };
    this.soon();
    this.ask();
  },

  zoom(by, at) {
    const span = this.view.to - this.view.from;
    const least = this.single ? 5e-5 : 0.05;
    const most = this.single ? this.limit : 200;
    const next = Math.min(most, Math.max(least, span * by));
    const from = this.view.from + at * (span - next);
    const low = this.single ? 0 : -200;
    this.view = { from: Math.max(low, from), to: Math.max(low, from) + next };
    if (this.single && this.view.to > this.limit) this.view = { from: Math.max(0, this.limit - next), to: this.limit };
    this.soon();
    this.ask();
  },

  async get(what) {
    try {
      const answer = await fetch(`${this.address}/${what}`);
      return answer.ok ? await answer.json() : null;
    } catch {
      return null; // it stays as it was
    }
  },

  // ask has one question under way at a time: the newest wish is asked next.
  async ask() {
    this.want = { ...this.view, cycle: this.cycle };
    if (this.asking) return;
    this.asking = true;
    while (this.want) {
      const want = this.want;
      this.want = null;
      const columns = Math.max(50, Math.round(this.wide || 600));
      if (this.single) {
        const span = want.to - want.from;
        const query = new URLSearchParams({ channel: this.channel, from: Math.max(0, want.from - span / 2), to: Math.min(this.limit, want.to + span / 2), columns: 2 * columns });
        this.data = (await this.get(`window?${query}`)) || this.data;
      } else {
        const query = new URLSearchParams({ cycle: want.cycle, before: Math.max(0, -want.from), after: Math.max(0.05, want.to), columns: Math.min(1000, columns) });
        const was = this.data?.shapes.length;
        this.data = (await this.get(`shapes?${query}`)) || this.data;
        if (this.kind === "stack" && this.data?.shapes.length !== was) this.fit();
      }
      this.waiting = !this.data;
      this.soon();
    }
    this.asking = false;
  },

  soon() {
    if (this.due) return;
    this.due = requestAnimationFrame(() => {
      this.due = 0;
      if (this.data) this.draw();
    });
  },

  draw() {
    const began = performance.now();
    const pen = this.canvas.getContext("2d");
    this.colours ||= inks(this.$root, ["peat", "stone", "line", "fell", "rowan", "loch", "edge"]);
    const colour = this.colours;
    pen.setTransform(this.dense, 0, 0, this.dense, 0, 0);
    pen.clearRect(0, 0, this.wide, this.tall);
    pen.font = `13px ${getComputedStyle(document.body).fontFamily}`;
    pen.lineJoin = "round";
    const shapes = this.single ? [] : this.data.shapes;
    const windows = this.single ? [this.data] : shapes.map((s) => s.window);
    let low = 0;
    let high = 100;
    for (const w of windows) {
      for (let i = 0; i < w.low.length; i++) {
        if (w.low[i] < low) low = w.low[i];
        if (w.high[i] > high) high = w.high[i];
      }
    }
    low -= 0.03 * (high - low);
    high += 0.08 * (high - low);
    const area = { x: LEFT, y: HEAD, w: this.wide - LEFT - 8, h: this.tall - HEAD - FOOT, low, high };
    if (this.kind === "stack") this.drawStack(pen, colour, shapes, area);
    else {
      this.scale(pen, colour, area);
      if (this.single) this.drawSingle(pen, colour, area);
      else if (this.kind === "row") this.drawRow(pen, colour, shapes, area);
      else this.drawOver(pen, colour, shapes, area);
    }
    if (this.kind !== "row") this.cursors(pen, colour, area);
    this.$root.dataset.work = (performance.now() - began).toFixed(2);
    this.$root.dispatchEvent(new CustomEvent("drawn", { detail: performance.now() - began }));
  },

  y(area, centi) {
    return area.y + area.h * (1 - (centi - area.low) / (area.high - area.low));
  },

  step125(span, about) {
    let step = 10 ** Math.floor(Math.log10(span / about));
    for (const k of [1, 2, 5, 10]) if (span / (k * step) <= about) return k * step;
    return 10 * step;
  },

  scale(pen, colour, area) {
    const step = this.step125((area.high - area.low) * CENTI, 6);
    pen.lineWidth = 1;
    pen.textAlign = "right";
    pen.fillStyle = colour.stone;
    pen.strokeStyle = colour.line;
    for (let v = Math.ceil((area.low * CENTI) / step) * step; v <= area.high * CENTI; v += step) {
      const y = this.y(area, v * 100);
      pen.beginPath();
      pen.moveTo(area.x, y);
      pen.lineTo(area.x + area.w, y);
      pen.stroke();
      pen.fillText(String(Math.round(v * 10) / 10), area.x - 6, y + 4);
    }
    pen.fillText("kV", area.x - 6, area.y - 4);
  },

  // times writes the scale below; the stretch is in seconds or milliseconds.
  times(pen, colour, area) {
    const unit = this.single ? 1000 : 1;
    const from = this.view.from * unit;
    const to = this.view.to * unit;
    const step = this.step125(to - from, Math.max(3, area.w / 90));
    pen.textAlign = "center";
    pen.fillStyle = colour.stone;
    pen.strokeStyle = colour.edge;
    for (let t = Math.ceil(from / step) * step; t <= to; t += step) {
      const x = area.x + (area.w * (t - from)) / (to - from);
      pen.beginPath();
      pen.moveTo(x, area.y + area.h);
      pen.lineTo(x, area.y + area.h + 5);
      pen.stroke();
      pen.fillText(`${Math.round(t * 1000) / 1000}`, x, area.y + area.h + 18);
    }
    pen.textAlign = "right";
    pen.fillText("ms", area.x - 6, area.y + area.h + 18);
  },

  // stroke draws a window between two edges that stand for two times.
  stroke(pen, w, area, from, to, x0, wide) {
    const n = w.low.length;
    if (!n) return;
    const x = (i) => x0 + (wide * (w.from + ((i + 0.5) / n) * (w.to - w.from) - from)) / (to - from);
    const first = Math.max(0, Math.floor(((from - w.from) / (w.to - w.from)) * n) - 1);
    const last = Math.min(n - 1, Math.ceil(((to - w.from) / (w.to - w.from)) * n) + 1);
    pen.save();
    pen.beginPath();
    pen.rect(x0, area.y - 2, wide, area.h + 4);
    pen.clip();
    pen.beginPath();
    for (let i = first; i <= last; i++) {
      pen.lineTo(x(i), this.y(area, w.high[i]));
    }
    for (let i = last; i >= first; i--) {
      pen.lineTo(x(i), this.y(area, w.low[i]));
    }
    pen.closePath();
    pen.fill();
    pen.stroke();
    pen.restore();
  },

  pick(pen, tone, width) {
    pen.strokeStyle = tone;
    pen.fillStyle = tone;
    pen.lineWidth = width;
  },

  drawSingle(pen, colour, area) {
    const { from, to } = this.view;
    const x = (t) => area.x + (area.w * (t - from)) / (to - from);
    this.pick(pen, colour.fell, 1.3);
    this.stroke(pen, this.data, area, from, to, area.x, area.w);
    this.times(pen, colour, area);
    const shown = (this.data.events || []).filter((e) => e.at >= from && e.at <= to);
    pen.textAlign = "left";
    for (const e of shown.slice(0, 24)) {
      this.pick(pen, colour.loch, 1.5);
      const top = Math.max(area.y + 12, this.y(area, e.kv * 100));
      pen.fillText(`${e.cylinder}: ${e.least ? "at least " : ""}${e.kv.toFixed(1)} kV`, x(e.at) + 8, top + 4);
      if (shown.length > 4) continue;
      if (e.burn > 0) {
        const y = this.y(area, e.line * 100) - 14;
        const end = x(e.at + e.burn / 1000);
        pen.beginPath();
        for (const edge of [x(e.at), end]) {
          pen.moveTo(edge, y - 5);
          pen.lineTo(edge, y + 5);
        }
        pen.moveTo(x(e.at), y);
        pen.lineTo(end, y);
        pen.stroke();
        pen.fillText(`burn ${e.burn.toFixed(2)} ms at ${e.line.toFixed(2)} kV, ${e.slope.toFixed(2)} kV/ms${e.rings ? `, then ${e.rings} half waves` : ""}`, x(e.at) + 8, top + 22);
      }
      if (e.dwell > 0) {
        const on = x(e.at - e.dwell / 1000);
        pen.beginPath();
        pen.moveTo(on, this.y(area, 0) + 4);
        pen.lineTo(on, this.y(area, 0) + 16);
        pen.stroke();
        if (on > area.x - 40) pen.fillText(`coil on, ${e.dwell.toFixed(1)} ms`, Math.max(area.x + 4, on + 4), this.y(area, 0) - 8);
      }
    }
  },

  drawRow(pen, colour, shapes, area) {
    const wide = area.w / Math.max(1, shapes.length);
    shapes.forEach((s, i) => {
      const x = area.x + wide * i;
      this.pick(pen, s.event.cylinder === this.cylinder ? colour.rowan : colour.fell, 1.3);
      const at = s.event.at;
      this.stroke(pen, s.window, area, at + this.view.from / 1000, at + this.view.to / 1000, x + 3, wide - 6);
      pen.textAlign = "center";
      pen.fillStyle = s.event.cylinder === this.cylinder ? colour.rowan : colour.peat;
      pen.fillText(wide > 74 ? `${s.event.cylinder}: ${s.event.kv.toFixed(1)} kV` : `${s.event.cylinder}`, x + wide / 2, area.y + area.h + 18);
    });
    this.read = `cycle ${this.data.cycle + 1} of ${this.data.cycles}`;
  },

  drawOver(pen, colour, shapes, area) {
    const front = (s) => s.event.cylinder === this.cylinder;
    for (const s of [...shapes.filter((o) => !front(o)), ...shapes.filter(front)]) {
      this.pick(pen, front(s) ? colour.rowan : colour.stone, front(s) ? 2.2 : 1);
      const at = s.event.at;
      this.stroke(pen, s.window, area, at + this.view.from / 1000, at + this.view.to / 1000, area.x, area.w);
    }
    this.times(pen, colour, area);
    pen.textAlign = "right";
    pen.fillStyle = colour.rowan;
    pen.fillText(`in front: cylinder ${this.cylinder}`, area.x + area.w, area.y + 6);
  },

  drawStack(pen, colour, shapes, area) {
    const tall = area.h / Math.max(1, shapes.length);
    shapes.forEach((s, i) => {
      const row = { ...area, y: area.y + tall * i, h: tall - 4 };
      const mine = s.event.cylinder === this.cylinder;
      this.pick(pen, mine ? colour.rowan : colour.fell, mine ? 2 : 1.2);
      const at = s.event.at;
      this.stroke(pen, s.window, row, at + this.view.from / 1000, at + this.view.to / 1000, area.x, area.w - 70);
      pen.textAlign = "right";
      pen.fillStyle = mine ? colour.rowan : colour.peat;
      pen.fillText(`${mine ? "▲ " : ""}${s.event.cylinder}`, area.x - 8, this.y(row, 0));
      pen.textAlign = "left";
      pen.fillText(`${s.event.kv.toFixed(1)} kV`, area.x + area.w - 62, this.y(row, 0));
    });
    this.times(pen, colour, { ...area, w: area.w - 70 });
  },

  // cursors draws the two, and says what lies under and between them.
  cursors(pen, colour, area) {
    const w = this.kind === "stack" ? area.w - 70 : area.w;
    const x = (t) => area.x + (w * (t - this.view.from)) / (this.view.to - this.view.from);
    const said = [];
    for (const name of ["a", "b"]) {
      if (this[name] === null) continue;
      const at = x(this[name]);
      if (at < area.x || at > area.x + w) continue;
      this.pick(pen, colour.loch, 1.5);
      pen.setLineDash(name === "a" ? [] : [5, 4]);
      pen.beginPath();
      pen.moveTo(at, area.y);
      pen.lineTo(at, area.y + area.h);
      pen.stroke();
      pen.setLineDash([]);
      pen.textAlign = "left";
      pen.fillText(name.toUpperCase(), at + 4, area.y + area.h - 4);
    }
    const unit = this.single ? 1000 : 1;
    const kV = (t) => {
      const win = this.single ? this.data : this.data.shapes.find((s) => s.event.cylinder === this.cylinder)?.window;
      const peak = this.single ? 0 : this.data.shapes.find((s) => s.event.cylinder === this.cylinder)?.event.at;
      if (!win) return null;
      const seconds = this.single ? t : peak + t / 1000;
      const i = Math.floor(((seconds - win.from) / (win.to - win.from)) * win.low.length);
      if (!(i >= 0 && i < win.low.length)) return null;
      return (Math.abs(win.low[i]) > Math.abs(win.high[i]) ? win.low[i] : win.high[i]) * CENTI;
    };
    for (const name of ["a", "b"]) {
      if (this[name] === null) continue;
      const v = kV(this[name]);
      said.push(`${name.toUpperCase()} ${(this[name] * unit).toFixed(3)} ms${v === null ? "" : `, ${v.toFixed(2)} kV`}`);
    }
    if (this.a !== null && this.b !== null) {
      const apart = Math.abs(this.b - this.a) * unit;
      const [va, vb] = [kV(this.a), kV(this.b)];
      said.push(`between ${apart.toFixed(3)} ms${va === null || vb === null ? "" : `, ${(vb - va).toFixed(2)} kV`}${apart > 0 ? `, ${Math.round(1000 / apart)} Hz` : ""}`);
    }
    if (!said.length) said.push(this.single ? `${(1000 * this.view.from).toFixed(1)} to ${(1000 * this.view.to).toFixed(1)} ms` : `cycle ${this.data.cycle + 1} of ${this.data.cycles}`);
    this.read = said.join(" · ");
  },
});
