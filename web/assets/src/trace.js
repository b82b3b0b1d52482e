import { inks } from "./inks.js";

// A trace on a canvas, to zoom and pan by mouse, touch and keys. The server has a pyramid of
// least and greatest: a stretch of any length comes in as many columns as the canvas has. What
// is at hand is drawn at once, stretched; what is asked for meanwhile takes its place.
const CENTI = 0.01;
const LEFT = 46;
const FOOT = 26;
const HEAD = 16;

// What is drawn is kept out of the component's own, reactive data: a thousand columns are read
// for each frame.
export const trace = () => {
  const own = { data: null, want: null, asking: false, held: new Map(), moved: false, a: null, b: null, cycle: 0, due: 0, colours: null };
  return {
    waiting: true,
    read: "",

    // shown is what is on the screen, as the server is asked for it.
    shown() {
      const { from, to } = own.view;
      return own.single ? { from, to, channel: own.channel } : { cycle: own.cycle, before: Math.max(0, -from), after: Math.max(0.05, to) };
    },

    init() {
      const set = this.$root.dataset;
      const figures = Object.fromEntries(["from", "to", "seconds", "cycle", "cycles", "before", "after", "channel", "cylinder"].map((k) => [k, Number(set[k])]));
      own.kind = set.kind;
      own.address = set.at;
      own.single = own.kind === "trace";
      Object.assign(own, { limit: figures.seconds, cycle: figures.cycle, cycles: figures.cycles, channel: figures.channel, cylinder: figures.cylinder });
      // A stretch is in seconds of the capture, or in milliseconds about each peak.
      own.start = own.single ? { from: figures.from, to: figures.to } : { from: -figures.before, to: figures.after };
      own.view = { ...own.start };
      own.canvas = this.$refs.canvas;
      const board = this.$refs.board;
      new ResizeObserver(() => this.fit()).observe(board);
      matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => {
        own.colours = null;
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
      const tall = own.kind === "stack" ? Math.max(260, 40 * Math.max(1, own.data?.shapes?.length || 6) + FOOT) : 300;
      const dense = Math.min(2, devicePixelRatio || 1);
      own.wide = wide;
      own.tall = tall;
      own.canvas.width = wide * dense;
      own.canvas.height = tall * dense;
      own.canvas.style.width = `${wide}px`;
      own.canvas.style.height = `${tall}px`;
      own.dense = dense;
      this.soon();
    },

    // What a place on the board is, of the stretch from 0 to 1.
    place(event) {
      const box = own.canvas.getBoundingClientRect();
      return Math.min(1, Math.max(0, (event.clientX - box.left - LEFT) / (own.wide - LEFT - 8)));
    },

    down(event) {
      own.held.set(event.pointerId, event.clientX);
      own.moved = false;
      this.$refs.board.setPointerCapture(event.pointerId);
    },

    drag(event) {
      if (!own.held.has(event.pointerId)) return;
      const width = own.wide - LEFT - 8;
      if (own.held.size === 1) {
        const by = event.clientX - own.held.get(event.pointerId);
        if (Math.abs(by) < 3 && !own.moved) return;
        own.moved = true;
        own.held.set(event.pointerId, event.clientX);
        this.pan((-by / width) * (own.view.to - own.view.from));
        return;
      }
      const before = this.apart();
      own.held.set(event.pointerId, event.clientX);
      const after = this.apart();
      own.moved = true;
      if (before > 10 && after > 10) this.zoom(before / after, 0.5);
    },

    apart() {
      const at = [...own.held.values()];
      return Math.abs(at[0] - at[1]);
    },

    up(event) {
      if (!own.held.delete(event.pointerId) || own.moved || event.type !== "pointerup") return;
      const at = own.view.from + this.place(event) * (own.view.to - own.view.from);
      own[event.shiftKey ? "b" : "a"] = at;
      this.soon();
    },

    press(event) {
      if (event.ctrlKey || event.altKey || event.metaKey) return;
      const span = own.view.to - own.view.from;
      const middle = own.view.from + span / 2;
      const does = {
        ArrowLeft: () => this.pan(-span / 8),
        ArrowRight: () => this.pan(span / 8),
        "+": () => this.zoom(0.8, 0.5),
        "=": () => this.zoom(0.8, 0.5),
        "-": () => this.zoom(1.25, 0.5),
        Home: () => this.whole(),
        PageUp: () => this.earlier(),
        PageDown: () => this.later(),
        a: () => { own.a = middle; this.soon(); },
        b: () => { own.b = middle; this.soon(); },
      }[event.key];
      if (!does) return;
      event.preventDefault();
      event.stopPropagation();
      does();
    },

    left() { this.pan((own.view.from - own.view.to) / 4); },
    right() { this.pan((own.view.to - own.view.from) / 4); },
    closer() { this.zoom(0.7, 0.5); },
    wider() { this.zoom(1.4, 0.5); },

    whole() {
      own.view = own.single ? { from: 0, to: own.limit } : { ...own.start };
      this.ask();
    },

    earlier() { this.step(-1); },
    later() { this.step(1); },

    // step goes to the event or the cycle beside this one.
    async step(by) {
      if (!own.single) {
        own.cycle = Math.min(own.cycles - 1, Math.max(0, own.cycle + by));
        this.ask();
        return;
      }
      const middle = (own.view.from + own.view.to) / 2;
      const reach = 0.5;
      const from = Math.max(0, by > 0 ? middle : middle - reach);
      const to = Math.min(own.limit, by > 0 ? middle + reach : middle);
      if (to <= from) return;
      const near = await this.get(`window?${new URLSearchParams({ channel: own.channel, from, to, columns: 1 })}`);
      const half = (own.view.to - own.view.from) / 2;
      const events = (near?.events || []).filter((e) => Math.abs(e.at - middle) > 0.0005);
      const next = by > 0 ? events[0] : events[events.length - 1];
      if (!next) return;
      own.view = { from: Math.max(0, next.at - half), to: Math.min(own.limit, next.at + half) };
      this.ask();
    },

    pan(by) {
      const span = own.view.to - own.view.from;
      const low = own.single ? 0 : -200;
      const high = own.single ? own.limit : 200;
      const from = Math.min(high - span, Math.max(low, own.view.from + by));
      own.view = { from, to: from + span };
      this.soon();
      this.ask();
    },

    zoom(by, at) {
      const span = own.view.to - own.view.from;
      const least = own.single ? 5e-5 : 0.05;
      const most = own.single ? own.limit : 200;
      const next = Math.min(most, Math.max(least, span * by));
      const from = own.view.from + at * (span - next);
      const low = own.single ? 0 : -200;
      own.view = { from: Math.max(low, from), to: Math.max(low, from) + next };
      if (own.single && own.view.to > own.limit) own.view = { from: Math.max(0, own.limit - next), to: own.limit };
      this.soon();
      this.ask();
    },

    async get(what) {
      try {
        const answer = await fetch(`${own.address}/${what}`);
        return answer.ok ? await answer.json() : null;
      } catch {
        return null; // it stays as it was
      }
    },

    // ask has one question under way at a time: the newest wish is asked next.
    async ask() {
      own.want = { ...own.view, cycle: own.cycle };
      if (own.asking) return;
      own.asking = true;
      while (own.want) {
        const want = own.want;
        own.want = null;
        const columns = Math.max(50, Math.round(own.wide || 600));
        if (own.single) {
          const span = want.to - want.from;
          const query = new URLSearchParams({ channel: own.channel, from: Math.max(0, want.from - span / 2), to: Math.min(own.limit, want.to + span / 2), columns: 2 * columns });
          own.data = (await this.get(`window?${query}`)) || own.data;
        } else {
          const query = new URLSearchParams({ cycle: want.cycle, before: Math.max(0, -want.from), after: Math.max(0.05, want.to), columns: Math.min(1000, columns) });
          const was = own.data?.shapes.length;
          own.data = (await this.get(`shapes?${query}`)) || own.data;
          if (own.kind === "stack" && own.data?.shapes.length !== was) this.fit();
        }
        this.waiting = !own.data;
        this.soon();
      }
      own.asking = false;
    },

    soon() {
      if (own.due) return;
      own.due = requestAnimationFrame(() => {
        own.due = 0;
        if (own.data) this.draw();
      });
    },

    draw() {
      const began = performance.now();
      const pen = own.canvas.getContext("2d");
      own.colours ||= inks(this.$root, ["peat", "stone", "line", "fell", "rowan", "loch", "edge"]);
      const colour = own.colours;
      pen.setTransform(own.dense, 0, 0, own.dense, 0, 0);
      pen.clearRect(0, 0, own.wide, own.tall);
      pen.font = `13px ${getComputedStyle(document.body).fontFamily}`;
      pen.lineJoin = "round";
      const shapes = own.single ? [] : own.data.shapes;
      const windows = own.single ? [own.data] : shapes.map((s) => s.window);
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
      const area = { x: LEFT, y: HEAD, w: own.wide - LEFT - 8, h: own.tall - HEAD - FOOT, low, high };
      if (own.kind === "stack") this.drawStack(pen, colour, shapes, area);
      else {
        this.scale(pen, colour, area);
        if (own.single) this.drawSingle(pen, colour, area);
        else if (own.kind === "row") this.drawRow(pen, colour, shapes, area);
        else this.drawOver(pen, colour, shapes, area);
      }
      if (own.kind !== "row") this.cursors(pen, colour, area);
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
      const unit = own.single ? 1000 : 1;
      const from = own.view.from * unit;
      const to = own.view.to * unit;
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
      const { from, to } = own.view;
      const x = (t) => area.x + (area.w * (t - from)) / (to - from);
      this.pick(pen, colour.fell, 1.3);
      this.stroke(pen, own.data, area, from, to, area.x, area.w);
      this.times(pen, colour, area);
      const shown = (own.data.events || []).filter((e) => e.at >= from && e.at <= to);
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
          const told = [`burn ${e.burn.toFixed(2)} ms at ${e.line.toFixed(2)} kV`, `${e.slope.toFixed(2)} kV/ms`];
          if (e.rings) told.push(`then ${e.rings} half waves`);
          const lines = own.wide < 600 ? told : [told.join(", ")];
          lines.forEach((line, i) => pen.fillText(line, x(e.at) + 8, top + 22 + 18 * i));
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
        this.pick(pen, s.event.cylinder === own.cylinder ? colour.rowan : colour.fell, 1.3);
        const at = s.event.at;
        this.stroke(pen, s.window, area, at + own.view.from / 1000, at + own.view.to / 1000, x + 3, wide - 6);
        pen.textAlign = "center";
        pen.fillStyle = s.event.cylinder === own.cylinder ? colour.rowan : colour.peat;
        pen.fillText(wide > 74 ? `${s.event.cylinder}: ${s.event.kv.toFixed(1)} kV` : `${s.event.cylinder}`, x + wide / 2, area.y + area.h + 18);
      });
      this.read = `cycle ${own.data.cycle + 1} of ${own.data.cycles}`;
    },

    drawOver(pen, colour, shapes, area) {
      const front = (s) => s.event.cylinder === own.cylinder;
      for (const s of [...shapes.filter((o) => !front(o)), ...shapes.filter(front)]) {
        this.pick(pen, front(s) ? colour.rowan : colour.stone, front(s) ? 2.2 : 1);
        const at = s.event.at;
        this.stroke(pen, s.window, area, at + own.view.from / 1000, at + own.view.to / 1000, area.x, area.w);
      }
      this.times(pen, colour, area);
      pen.textAlign = "right";
      pen.fillStyle = colour.rowan;
      pen.fillText(`in front: cylinder ${own.cylinder}`, area.x + area.w, area.y + 6);
    },

    drawStack(pen, colour, shapes, area) {
      const tall = area.h / Math.max(1, shapes.length);
      shapes.forEach((s, i) => {
        const row = { ...area, y: area.y + tall * i, h: tall - 4 };
        const mine = s.event.cylinder === own.cylinder;
        this.pick(pen, mine ? colour.rowan : colour.fell, mine ? 2 : 1.2);
        const at = s.event.at;
        this.stroke(pen, s.window, row, at + own.view.from / 1000, at + own.view.to / 1000, area.x, area.w - 70);
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
      const w = own.kind === "stack" ? area.w - 70 : area.w;
      const x = (t) => area.x + (w * (t - own.view.from)) / (own.view.to - own.view.from);
      const said = [];
      for (const name of ["a", "b"]) {
        if (own[name] === null) continue;
        const at = x(own[name]);
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
      const unit = own.single ? 1000 : 1;
      const kV = (t) => {
        const win = own.single ? own.data : own.data.shapes.find((s) => s.event.cylinder === own.cylinder)?.window;
        const peak = own.single ? 0 : own.data.shapes.find((s) => s.event.cylinder === own.cylinder)?.event.at;
        if (!win) return null;
        const seconds = own.single ? t : peak + t / 1000;
        const i = Math.floor(((seconds - win.from) / (win.to - win.from)) * win.low.length);
        if (!(i >= 0 && i < win.low.length)) return null;
        return (Math.abs(win.low[i]) > Math.abs(win.high[i]) ? win.low[i] : win.high[i]) * CENTI;
      };
      for (const name of ["a", "b"]) {
        if (own[name] === null) continue;
        const v = kV(own[name]);
        said.push(`${name.toUpperCase()} ${(own[name] * unit).toFixed(3)} ms${v === null ? "" : `, ${v.toFixed(2)} kV`}`);
      }
      if (own.a !== null && own.b !== null) {
        const apart = Math.abs(own.b - own.a) * unit;
        const [va, vb] = [kV(own.a), kV(own.b)];
        said.push(`between ${apart.toFixed(3)} ms${va === null || vb === null ? "" : `, ${(vb - va).toFixed(2)} kV`}${apart > 0 ? `, ${Math.round(1000 / apart)} Hz` : ""}`);
      }
      if (!said.length) said.push(own.single ? `${(1000 * own.view.from).toFixed(1)} to ${(1000 * own.view.to).toFixed(1)} ms` : `cycle ${own.data.cycle + 1} of ${own.data.cycles}`);
      this.read = said.join(" · ");
    },
  };
};
