/* Plays a prototype. The same rules as the player that the design was rehearsed with: what falls due is done in order of
   time, depth and place; a touch is taken by the innermost part and layer; an interrupted motion goes on from what is on
   screen, with its speed. DATA is what the page shows: stages, programs (markup and channels), curves. */
"use strict";
const play = (DATA, root, live) => {

// --- Curves: CSS easing functions as functions of 0..1
const curves = DATA.curves.map(text => {
  const of = (text.match(/\((.*)\)/) || ["", ""])[1];
  if (text.startsWith("cubic")) {
    const [x1, y1, x2, y2] = of.split(",").map(Number);
    const at = (a, b, s) => ((1 + 3 * a - 3 * b) * s + 3 * b - 6 * a) * s * s + 3 * a * s;
    return x => {
      if (x <= 0 || x >= 1) return x <= 0 ? 0 : 1;
      let low = 0, high = 1, s = x;
      for (let n = 0; n < 40; n++) { if (at(x1, x2, s) < x) low = s; else high = s; s = (low + high) / 2; }
      return at(y1, y2, s);
    };
  }
  if (text.startsWith("steps")) {
    const [count, jump] = [parseInt(of), of.split("jump-")[1] || "end"];
    const n = jump === "none" ? count - 1 : jump === "both" ? count + 1 : count;
    return x => Math.min(1, Math.max(0, (Math.floor(x * count + 1e-9) + (jump === "start" || jump === "both" ? 1 : 0)) / n));
  }
  if (text.startsWith("linear(")) {
    const points = of.split(",").map(p => p.trim().split(" ")).map(([v, p]) => [parseFloat(p) / 100, +v]);
    return x => {
      let k = points.findIndex(p => p[0] > x);
      if (k < 0) return points[points.length - 1][1];
      if (!k) return points[0][1];
      const [[a, u], [b, v]] = [points[k - 1], points[k]];
      return b > a ? u + (v - u) * (x - a) / (b - a) : v;
    };
  }
  return x => x;
});

// --- Texts with numbers in them: "12px 4px" is a form and [12, 4]
const forms = new Map();
const NUMBER = /-?\d*\.?\d+(?:e[-+]?\d+)?/g;
const parsed = text => {
  let found = forms.get(text);
  if (!found) {
    const numbers = /^(inherit|hidden|none|#)/.test(text) ? [] : (text.match(NUMBER) || []).map(Number);
    found = { text, numbers, parts: numbers.length ? text.split(NUMBER) : [text] };
    found.form = numbers.length ? found.parts.join("\0") : text;
    forms.set(text, found);
  }
  return found;
};
const written = (parts, numbers) => parts.reduce((made, part, k) => made + (+numbers[k - 1].toFixed(5)) + part);

// --- Numbers that were kept as differences
const summed = (values, times) => {
  const made = [...values];
  for (let n = 0; n < times; n++) for (let k = 1; k < made.length; k++) made[k] += made[k - 1];
  return made;
};
const unfolded = keys => {
  if (Array.isArray(keys)) return keys;
  const { p, f, c } = keys, columns = keys.n.map(column => summed(column, 2)), scale = 10 ** f;
  return summed(keys.o, 1).map((at, k) => [at / 1e7, p.reduce((made, part, n) => made + columns[n - 1][k] / scale + part), Array.isArray(c) ? c[k] : c]);
};
for (const channel of DATA.channels)
  for (const runs of [channel[2], ...channel[3].map(more => more[2])]) for (const run of runs) run[3] = unfolded(run[3]);

// --- Runs: keyframes in time. Gives [parts, numbers]
const between = (a, b, share) => {
  if (a.form !== b.form || !a.numbers.length) return share >= 1 ? [b.parts, b.numbers] : [a.parts, a.numbers];
  return [a.parts, a.numbers.map((v, k) => v + (b.numbers[k] - v) * share)];
};
const progress = (run, t) => {
  const [delay, duration, rounds] = run, n = duration > 0 ? (t - delay) / duration : t >= delay ? 1 : 0;
  if (t < delay) return 0;
  return rounds && n >= rounds || !duration ? 1 : n - Math.floor(n);
};
const runsAt = (runs, t) => {
  let run = runs[0];
  for (const other of runs) if (t >= other[0]) run = other;
  const x = progress(run, t), keys = run[3];
  let k = keys.length - 1;
  while (k > 0 && keys[k][0] > x) k--;
  const [one, two] = [keys[k], keys[k + 1]];
  if (!two || x < one[0]) return between(parsed(one[1]), parsed(one[1]), 0);
  const span = two[0] - one[0];
  return between(parsed(one[1]), parsed(two[1]), curves[one[2]](span > 0 ? (x - one[0]) / span : 1));
};

// --- Chance: the wait of each round by a seed (the mixer of SplitMix64, as timing/loops.py has it)
let seed = 1;
const chanceOf = (own, number) => {
  const of = n => BigInt.asUintN(64, n), mine = seed === 1 ? own : (own + (seed - 1) * 7919) % (2 ** 31 - 1);
  let z = of(BigInt(number) + BigInt(mine + 1) * 0x9E3779B97F4A7C15n);
  z = of((z ^ (z >> 30n)) * 0xBF58476D1CE4E5B9n);
  z = of((z ^ (z >> 27n)) * 0x94D049BB133111EBn);
  return Number((z ^ (z >> 31n)) >> 11n) / 2 ** 53;
};
/* The time at which a loop that always waits as long is where this one is after ms. */
const byChance = ([jitter, own, before, round, duration], ms) => {
  const t = ms + before, number = Math.floor(t / round), wait = round - duration;
  if (t < 0 || duration <= 0) return ms;
  const within = t - number * round - wait * (1 - jitter * chanceOf(own, number));
  return (within > duration ? (number + 1) * round : number * round + wait + within) - before;
};

// --- A program on screen
const limited = (prop, numbers) => prop === "opacity" ? numbers.map(v => Math.min(1, Math.max(0, v)))
  : /^(width|height|rx|ry|stroke-width|font-size)$/.test(prop) ? numbers.map(v => Math.max(0, v)) : numbers;
const putOn = (el, prop, text) => {
  if (prop === "d") el.setAttribute("d", text.slice(6, -2)); else el.style.setProperty(prop, text);
};
const readOf = (el, prop) => prop === "d" ? el.hasAttribute("d") ? `path("${el.getAttribute("d")}")` : "" : el.style.getPropertyValue(prop);

let views = 0;
class View {
  constructor(number, host) {
    this.program = DATA.programs[number];
    this.number = number;
    // Gradients, clips and masks are found by ids, and what is shown twice at once must not find those of the other.
    const mine = `-${++views}`;
    host.innerHTML = this.program.m.map(k => DATA.lines[k]).join("").replace(/( id="|url\(#)([^")]+)/g, `$1$2${mine}`);
    this.host = host;
    const all = [...host.querySelectorAll("*")];
    this.nodes = all;
    this.c = [];
    const [on = [], which = []] = this.program.c.map(column => summed(column, 1));
    on.forEach((node, k) => this.c.push([node, ...DATA.channels[which[k]]]));
    this.l = [];
    this.layers = [];
    const [spots = [], a, b, ups, bits] = this.program.l, none = ["", "", "", ""];
    summed(spots, 1).forEach((spot, k) => {
      const [left, right] = [DATA.layers[a[k]] || none, DATA.layers[b[k] === -2 ? a[k] : b[k]] || none], main = right === none ? left : right;
      this.l.push([left[0], right[0], left[1], right[1], ups[k], bits[k] & 1, main[2], bits[k] >> 1, main[3], main[4]]);
      this.layers.push(all[spot]);
    });
    this.layerOf = new Map(this.layers.map((el, k) => [el, k]));
    this.uses = new Map(this.program.u.map(([k, origin]) => [origin, all[k]]));
    this.inUses = new Set(this.uses.values());
    this.fixes = [];
    this.still = [];
    this.gone = [];
    this.lead = null;
  }
  /* Everything at time t; since: origin -> for how many ms a loop runs; shift: px that the frame left and the frame
     arrived at are scrolled. */
  show(t, since, shift, hidden, led) {
    if (this.lead && led >= this.lead.duration) {
      for (const { el, prop, to } of this.still) putOn(el, prop, written(to.parts, to.numbers));
      this.fixes = []; this.still = []; this.lead = null;
      this.gone.splice(0).forEach(el => el.remove());
    }
    this.led = led;
    const share = this.program.d > 0 ? Math.min(1, Math.max(0, t / this.program.d)) : 0;
    const fading = 1 - share * share * (3 - 2 * share), coming = curves[this.program.cv](share);
    this.c.forEach(([n, prop, first, runs, extra, times], k) => {
      let [parts, numbers] = runs.length ? runsAt(runs, t) : [parsed(first).parts, parsed(first).numbers];
      const fix = this.fixes[k], led = all => fix && fix.delta.length === all.length ? all.map((v, i) => v + this.fixed(fix, t, i, v)) : all;
      if (this.lead) numbers = led(numbers); // what loops in a phase does so in full from its first moment
      for (const [origin, fades, own, rest, chance] of extra) {
        const ms = since.get(origin);
        if (ms === undefined) continue;
        const [, there] = runsAt(own, chance ? byChance(chance, ms) : ms), at = parsed(rest).numbers, by = fades === 1 ? fading : fades ? coming : 1;
        if (there.length !== numbers.length) continue;
        numbers = numbers.map((v, i) => times ? v * (1 + ((at[i] ? there[i] / at[i] : 1) - 1) * by) : v + (there[i] - at[i]) * by);
      }
      if (!this.lead) numbers = led(numbers);
      putOn(this.nodes[n], prop, numbers.length ? written(parts, limited(prop, numbers)) : parts[0]);
    });
    for (const fix of this.still) {
      const numbers = fix.to.numbers.map((v, i) => v + this.fixed(fix, t, i, v));
      putOn(fix.el, fix.prop, written(fix.to.parts, limited(fix.prop, numbers)));
    }
    for (const el of this.gone) el.style.opacity = el.began * (1 - (this.lead ? curves[this.lead.curve](Math.min(1, led / this.lead.duration)) : curves[this.program.cv](share)));
    if (shift) this.layers.forEach((el, k) => {
      const goes = this.l[k][7], dx = (goes & 1 ? shift[0] * (1 - share) : 0) + (goes & 2 ? shift[2] * share : 0);
      const dy = (goes & 1 ? shift[1] * (1 - share) : 0) + (goes & 2 ? shift[3] * share : 0);
      if (!goes || this.l[k][4] >= 0) return;
      const [x, y] = parsed(el.base ?? (el.base = el.style.translate || "0px 0px")).numbers;
      const now = this.moves(k) ? parsed(el.style.translate).numbers : [x, y];
      el.style.translate = `${now[0] - dx}px ${(now[1] || 0) - dy}px`;
    });
    this.layers.forEach((el, k) => { if (this.l[k][8]) el.style.display = hidden(this.l[k][8]) ? "none" : ""; });
  }
  moves(k) { return this.c.some(c => this.nodes[c[0]] === this.layers[k] && c[1] === "translate"); }
  /* What is left of a difference from what was on screen before, and of its speed; v is where it would be without it.
     What a transition leads into may move meanwhile: there the difference is from where it is now. */
  fixed(fix, t, i, v) {
    const { lead } = this, whole = lead ? lead.duration : this.program.d || 1, at = lead ? this.led : t;
    const u = Math.min(1, Math.max(0, at / whole)), speed = fix.speed ? fix.speed[i] : 0;
    const e = lead ? curves[lead.curve](u) : fix.run ? curves[fix.run[3][0][2]](progress(fix.run, t)) : curves[this.program.cv](u);
    return (lead ? fix.from[i] - v : fix.delta[i]) * (1 - e) + (at < whole ? at * (1 - u) * (1 - u) * speed : 0);
  }
  own(k) {
    const made = [], walk = el => {
      made.push(el);
      if (!this.inUses.has(el)) for (const child of el.children) if (!this.layerOf.has(child)) walk(child);
    };
    walk(this.layers[k]);
    return made;
  }
  key(k, arriving) {
    const layer = this.l[k];
    return arriving ? layer[1] || layer[0] : layer[0] || layer[1];
  }
  /* Begin with what another view shows now, as fast as it moves: before and now are readings of it 1 ms apart. */
  takeOver(old, before, now, rate, t = 0) {
    const by = new Map();
    const byOrigin = new Map();
    old.layers.forEach((_, k) => {
      const layer = old.l[k];
      by.set(layer[1] || layer[0], k);
      byOrigin.set(layer[3] || layer[2], k);
    });
    const taken = new Set(), none = new Map(), elsewhere = [];
    this.show(t, none, null, () => false);
    const first = this.read();
    this.show(t + 1, none, null, () => false);
    const second = this.read();
    this.show(t, none, null, () => false);
    this.fixes = [];
    this.still = [];
    // How steep the transition begins, which what is carried over is measured from.
    const steep = this.lead ? curves[this.lead.curve](1e-4) / 1e-4 / this.lead.duration : 0;
    const channelOf = new Map();
    this.c.forEach((c, k) => {
      if (!channelOf.has(this.nodes[c[0]])) channelOf.set(this.nodes[c[0]], {});
      channelOf.get(this.nodes[c[0]])[c[1]] = k;
    });
    this.layers.forEach((_, k) => {
      const layer = this.l[k];
      const there = layer[0] && !this.lead ? by.get(layer[0]) : byOrigin.get(layer[3] || layer[2]);
      if (there === undefined) return;
      taken.add(there);
      const up = layer[4], over = old.l[there][4];
      const same = this.lead ? 2 : 0; // in a transition between phases, poses are of one stage: origins match
      const moved = (up < 0 ? "" : this.l[up][same]) !== (over < 0 ? "" : old.l[over][same + 1] || old.l[over][same]);
      if (moved) elsewhere.push([k, there]);
      const mine = this.own(k), theirs = old.own(there);
      mine.forEach((el, i) => {
        const other = theirs[i];
        if (!other || other.tagName !== el.tagName) return;
        for (const prop of new Set([...el.style, ...other.style, ...(el.hasAttribute("d") ? ["d"] : [])])) {
          if (prop === "visibility" || prop === "display" || moved && !i && prop === "translate") continue;
          const a = now.get(other)?.[prop], b = first.get(el)?.[prop] || (a ? NEUTRAL[prop] : "");
          const from = a || NEUTRAL[prop];
          if (!from || !b) continue;
          const [p, q] = [parsed(from), parsed(b)];
          if (p.form !== q.form || !p.numbers.length) continue;
          const earlier = parsed(before.get(other)?.[prop] || from).numbers, later = parsed(second.get(el)?.[prop] || b).numbers;
          const delta = p.numbers.map((v, n) => v - q.numbers[n]);
          const speed = p.numbers.map((v, n) => (v - (earlier[n] ?? v)) * rate
            - (this.lead ? -delta[n] * steep * !!rate : (later[n] ?? q.numbers[n]) - q.numbers[n]));
          if (!this.lead && !delta.some(v => Math.abs(v) > 1e-4) && !speed.some(v => Math.abs(v) > 1e-6)) continue;
          const at = channelOf.get(el)?.[prop];
          if (at !== undefined) {
            const runs = this.c[at][3];
            this.fixes[at] = { from: p.numbers, delta, speed, run: runs.length === 1 && runs[0][3].length === 2 ? runs[0] : null };
          } else this.still.push({ el, prop, from: p.numbers, to: q, delta, speed });
        }
      });
    });
    // What lies in another group now stands where it stood on screen.
    for (const [k, there] of elsewhere) {
      this.show(t, none, null, () => false, 0);
      const el = this.layers[k], mine = this.placed(k), up = this.l[k][4], was = old.places[there];
      const space = up < 0 ? this.host.getScreenCTM() : this.placed(up);
      if (!mine || !was || !space || !(space.a * space.d - space.b * space.c)) continue;
      const a = space.inverse().multiply(was), b = space.inverse().multiply(mine), delta = [a.e - b.e, a.f - b.f];
      const at = channelOf.get(el)?.translate, runs = at === undefined ? [] : this.c[at][3];
      const from = parsed(el.style.translate || "0px 0px").numbers.map((v, n) => v + delta[n]);
      if (at !== undefined) this.fixes[at] = { from, delta, run: runs.length === 1 && runs[0][3].length === 2 ? runs[0] : null };
      else this.still.push({ el, prop: "translate", to: parsed(el.style.translate || "0px 0px"), from, delta });
    }
    old.layers.forEach((el, k) => {
      if (taken.has(k) || old.l[k][4] >= 0) return;
      const copy = el.cloneNode(true);
      copy.began = +(el.style.opacity || 1);
      if (copy.began > 0.01 && el.style.visibility !== "hidden") { this.host.appendChild(copy); this.gone.push(copy); }
    });
    const needed = this.gone.length ? old.host.querySelector(":scope > defs") : null;
    if (needed) { const copy = needed.cloneNode(true); copy.began = 1; this.host.appendChild(copy); this.gone.push(copy); }
  }
  read() {
    const made = new Map();
    this.layers.forEach((_, k) => this.own(k).forEach(el => {
      const props = {};
      for (const prop of el.style) props[prop] = whole(prop, el.style.getPropertyValue(prop));
      if (el.hasAttribute("d")) props.d = readOf(el, "d");
      made.set(el, props);
    }));
    return made;
  }
  /* From a layer's px to the window's. What is a mask lies elsewhere in the document: it stands in the space of its group. */
  placed(k) {
    const el = this.layers[k], own = el.getScreenCTM(), mask = el.closest("mask");
    if (!mask || !own || this.l[k][4] < 0) return own;
    const group = this.placed(this.l[k][4]), base = mask.ownerSVGElement.getScreenCTM();
    return group && base ? group.multiply(base.inverse().multiply(own)) : own;
  }
  /* The layers under a point of the window, innermost first. */
  at(x, y) {
    for (let k = this.layers.length - 1; k >= 0; k--) {
      const el = this.layers[k], layer = this.l[k];
      if (!el || !layer[5]) continue;
      let clear = 1, seen = true;
      for (let up = k; up >= 0; up = this.l[up][4]) {
        const style = this.layers[up].style;
        clear *= style.opacity === "" ? 1 : +style.opacity;
        seen = seen && style.visibility !== "hidden" && style.display !== "none";
      }
      if (!seen || clear < 1 / 255) continue;
      const matrix = this.placed(k);
      if (!matrix || !matrix.a && !matrix.b || !(matrix.a * matrix.d - matrix.b * matrix.c)) continue;
      const p = new DOMPoint(x, y).matrixTransform(matrix.inverse()), [w, h] = parsed(el.style.getPropertyValue("--box")).numbers;
      if (!met(layer[9], w, h, p.x, p.y)) continue;
      const found = [];
      for (let up = k; up >= 0; up = this.l[up][4]) found.push(up);
      return found;
    }
    return [];
  }
}
/* Whether a point of a layer's px meets it, w by h px large: all of its box, what is beside something thin, and of an
   outline without a fill (its size, how near counts, and its points) only the line. */
const met = (outline, w, h, x, y) => {
  const edge = Math.min(w, h) < 6 ? 3 : 0;
  if (x < -edge || y < -edge || x > w + edge || y > h + edge) return false;
  if (!outline || !outline.length || Math.min(w, h) <= 24) return true;
  const [wide, high, near, lines] = outline, across = w / Math.max(wide, 1e-9), down = h / Math.max(high, 1e-9), CHORDS = 16;
  return lines.some(points => {
    for (let n = 0; n + 8 <= points.length; n += 6) {
      const at = (t, k) => (1 - t) ** 3 * points[n + k] + 3 * t * (1 - t) ** 2 * points[n + 2 + k] + 3 * t * t * (1 - t) * points[n + 4 + k] + t ** 3 * points[n + 6 + k];
      for (let c = 0; c < CHORDS; c++) {
        const [s, e] = [c / CHORDS, (c + 1) / CHORDS], ax = at(s, 0) * across, ay = at(s, 1) * down;
        const dx = at(e, 0) * across - ax, dy = at(e, 1) * down - ay;
        const share = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / Math.max(dx * dx + dy * dy, 1e-12)));
        if (Math.hypot(x - ax - share * dx, y - ay - share * dy) <= near) return true;
      }
    }
    return false;
  });
};
/* With both numbers: a browser leaves out the second of "80px 0px" and "1 1". */
const whole = (prop, text) => /[ ,(]/.test(text) ? text : prop === "translate" ? `${text} 0px` : prop === "scale" ? `${text} ${text}` : text;
const NEUTRAL = { translate: "0px 0px", rotate: "0deg", scale: "1 1", opacity: "1", filter: "" };

// --- Conditions
const number = v => typeof v === "string" ? 0 : +v;
const value = (e, inputs) => {
  if (!Array.isArray(e)) return e;
  const [op, a, b] = e, of = p => value(p, inputs), n = p => number(of(p));
  switch (op) {
    case "$": return a in inputs ? inputs[a] : false;
    case "&": return e.slice(1).every(of);
    case "|": return e.slice(1).some(of);
    case "!": return !of(a);
    case "+": return finite(n(a) + n(b));
    case "-": return finite(n(a) - n(b));
    case "*": return finite(n(a) * n(b));
    case "/": return n(b) ? finite(n(a) / n(b)) : 0;
    case "min": case "max": case "clamp": {
      const sorted = e.slice(1).map(n).sort((p, q) => p - q);
      return sorted[op === "min" ? 0 : op === "max" ? sorted.length - 1 : 1];
    }
  }
  const [l, r] = [of(a), of(b)];
  if (typeof l !== typeof r) return op === "!=";
  if (op === "=" || op === "!=") return (l === r) === (op === "=");
  if (typeof l !== "number") return false;
  return op === "<" ? l < r : op === ">" ? l > r : op === "<=" ? l <= r : l >= r;
};
const finite = v => Number.isFinite(v) ? v : 0;
const said = v => v === true ? "yes" : v === false ? "no" : typeof v === "number" ? `${+v.toPrecision(6)}` : `“${v}”`;
const holds = (condition, inputs) => !condition || value(condition, inputs) === true;

// --- What follows a value: where it is, where it shall be, and how it gets there
class Following {
  constructor(v) { Object.assign(this, { wanted: 0, share: 0, since: 0, lag: 0, pace: 0, held: false, settling: null }, v); }
  at(now) {
    const s = this.settling;
    if (s) {
      if (now >= s.began + s.duration) return s.end;
      const t = Math.max(0, now - s.began) / s.duration, u = 1 - t;
      return Math.min(1, Math.max(0, (1 + 2 * t) * u * u * s.share + t * u * u * s.speed * s.duration + t * t * (3 - 2 * t) * s.end));
    }
    return this.lag <= 0 ? this.wanted : this.wanted + (this.share - this.wanted) * Math.exp(-Math.max(0, now - this.since) / this.lag);
  }
  speedAt(now) {
    const s = this.settling;
    if (s) {
      if (now >= s.began + s.duration || s.duration <= 0) return 0;
      const t = Math.max(0, now - s.began) / s.duration;
      return (s.end - s.share) * 6 * t * (1 - t) / s.duration + (1 - t) * (1 - 3 * t) * s.speed;
    }
    return this.lag > 0 ? (this.wanted - this.at(now)) / this.lag : now - this.since <= RESTS ? this.pace : 0;
  }
  aimed(now, wanted, pace = 0, held = false) {
    wanted = Math.min(1, Math.max(0, wanted));
    return new Following({ ...this, wanted, share: this.at(now), since: now, pace: wanted > 0 && wanted < 1 ? pace : 0, held, settling: null });
  }
  endsAt() {
    if (this.settling) return this.settling.began + this.settling.duration;
    if (this.held || this.wanted !== 0 && this.wanted !== 1) return Infinity;
    const away = Math.abs(this.share - this.wanted);
    return this.lag <= 0 || away <= CLOSE ? this.since : this.since + this.lag * Math.log(away / CLOSE);
  }
  get end() { return this.settling ? this.settling.end : this.wanted; }
  letGo(now, how, letsGo, duration) {
    const share = this.at(now), speed = this.speedAt(now);
    if (how === "stay") return new Following({ ...this, pace: 0, held: false });
    const far = this.wanted + (how === "speed" && now - this.since <= RESTS ? this.pace * 200 : 0);
    const end = how === "back" || far < letsGo ? 0 : 1, way = end - share;
    let takes = Math.max(duration * Math.abs(way), Math.min(duration, 120));
    if (speed * way > 0) takes = Math.min(takes, 3 * Math.abs(way) / Math.abs(speed));
    else if (speed) takes = Math.min(takes, 6.75 * (speed < 0 ? share : 1 - share) / Math.abs(speed));
    return new Following({ ...this, held: false, settling: { began: now, share, speed, end, duration: Math.abs(way) > 0 ? takes : 0 } });
  }
}
const RESTS = 50, CLOSE = 0.0005;
const STILL = 4; // px that a pointer may move, and stands still
const shareBetween = (v, start, end) => end === start ? v >= end ? 1 : 0 : Math.min(1, Math.max(0, (v - start) / (end - start)));

// --- Stages: the project, and every part at work
const ORDER = ["motion", "loading", "timer", "hold", "loop", "phase"];
const MOST = 1000;
const stays = route => route.does.does === "set input" || route.does.does === "send signal" || "input" in route.does;

class Stage {
  constructor(data, loading, log, first, told) {
    Object.assign(this, { data, loading, log, now: 0, arrived: 0, motion: null, view: null, host: null });
    this.inputs = Object.fromEntries(data.inputs.filter(e => e[2] !== "signal").map(e => [e[1], e[3]]));
    Object.assign(this.inputs, told || {});
    this.loops = new Map(); this.ends = new Map(); this.fired = new Set(); this.holds = new Set();
    this.children = new Map(); this.history = []; this.places = {}; this.scroll = [0, 0]; this.hovered = [];
    this.follows = new Map(); this.returns = null; this.passed = new Set(); this.grip = null; this.pointer = null;
    this.pressed = null; this.lastTap = null; this.held = ""; this.over = ""; this.readyAt = null;
    this.steps = 0; this.stepsAt = -1; this.halted = false; this.waiting = []; this.starting = false;
    this.tracks = new Map(); this.sides = new Map(); this.unread = new Set(); this.events = []; this.reading = false;
    const at = data.states.findIndex(s => s.frame === first && !s.beneath.length);
    this.at = at < 0 ? data.first : at;
    if (!this.main) this.arrive(this.at, null, true);
    if (data.orders) this.beginOrders(first);
  }
  get main() { return this.data.orders && this.data.orders.main; }
  get state() { return this.data.states[this.at]; }
  get frame() { return this.data.frames[this.state.frame]; }
  note(what, says, frame) {
    const entry = { at: this.now, what, says, stage: "", ...(frame ? { frame } : {}) };
    if (this.held_back) this.held_back.push(entry); else this.log(entry);
  }
  name(id) { return this.frame.names[id]?.[0] || "nothing"; }
  origin(id) { for (const f of Object.values(this.data.frames)) if (f.names[id]) return f.names[id][1]; return id; }
  routes(kind) { return this.main ? [] : this.data.routes.filter(r => r.leaves === this.state.frame && (!kind || r.on.trigger === kind)); }
  may(route) { return !this.fired.has(route.id) && holds(route.only_if, this.inputs); }
  get leaving() { return this.motion && this.sureOf(this.motion) && !this.motion.entrance; }
  sureOf(motion) { return !motion.following || !!motion.left; }
  moment(motion) { return motion.following ? motion.following.at(this.now) * (motion.end - motion.start) : this.now - motion.start; }
  counts(what) {
    this.steps = this.stepsAt === this.now ? this.steps + 1 : 1;
    this.stepsAt = this.now;
    if (this.steps > MOST) { this.halted = true; this.note("stopped", `${what} came ${MOST.toLocaleString("en")} times at this moment`); }
    return !this.halted;
  }
  touched() { this.halted = false; this.steps = 0; }

  // What falls due by itself
  due() {
    if (this.halted) return null;
    const found = [];
    const add = (at, kind, more) => found.push({ at: Math.max(at, this.now), kind, depth: 0, place: 0, ...more });
    if (this.motion) {
      const over = this.motion.following ? this.motion.following.endsAt() : this.motion.end;
      if (over < Infinity) add(over, "motion");
    }
    if (this.readyAt !== null) add(this.readyAt, "loading");
    if (!this.leaving) {
      let best = null;
      for (const r of this.routes("timer")) if (this.may(r) && (!best || this.arrived + r.on.after < best.at)) best = { at: this.arrived + r.on.after, route: r };
      if (best) add(best.at, "timer", best);
      for (const r of this.routes("ends")) {
        const loop = this.state.loops.find(l => l[1] === r.on.motion && l[2]);
        if (loop && this.loops.has(loop[0]) && this.may(r)) add(Math.max(this.loops.get(loop[0]) + loop[2] - loop[3], this.arrived), "loop", { route: r });
      }
    }
    if (this.pressed) {
      const down = new Set([...this.pressed.map(id => this.origin(id)), ""]);
      for (const r of this.routes("hold"))
        if (down.has(this.origin(r.on.layer || "")) && !this.holds.has(r.id) && this.may(r)) add(this.pressedAt + (r.on.after ?? 500), "hold", { route: r });
    }
    [...this.tracks.values()].forEach((state, k) => {
      const at = this.nextOf(state);
      if (at < Infinity) add(at, "phase", { place: k, track: state.track });
    });
    let place = 0;
    for (const [origin, child] of this.children) {
      const inner = child.speed > 0 ? child.stage.due() : null;
      if (inner) add(child.began + (inner.at - child.offset) / child.speed, inner.kind, { depth: inner.depth + 1, place, origin, inner });
      place++;
    }
    found.sort((a, b) => a.at - b.at || a.depth - b.depth || a.place - b.place || ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind));
    return found[0] || null;
  }
  step(due) {
    this.now = Math.max(this.now, due.at);
    if (due.inner) return this.inChild(due.origin, stage => stage.step(due.inner));
    if (due.kind === "phase") return this.fellDue(due.track);
    if (!this.counts(`${this.frame.name}: what goes on by itself`)) return;
    const route = due.route;
    if (due.kind === "motion") this.finish();
    else if (due.kind === "loading") this.loaded();
    else if (due.kind === "hold") {
      this.holds.add(route.id);
      this.note("hold", route.on.layer ? this.name(route.on.layer) : "anywhere");
      this.go(route);
    } else {
      this.fired.add(route.id);
      if (due.kind === "timer") this.note("timer", `after ${+route.on.after.toPrecision(6)} ms`);
      this.go(route);
    }
  }
  advance(to) {
    for (let due; (due = this.due()) && due.at <= to;) this.step(due);
    this.now = Math.max(this.now, to);
  }
  inChild(origin, does) {
    const child = this.children.get(origin);
    child.stage.now = Math.max(child.stage.now, (this.now - child.began) * child.speed + child.offset);
    return does(child.stage, child);
  }

  // Going somewhere
  go(route) {
    if (stays(route)) return this.stay(route.does);
    const before = this.history[this.history.length - 1], back = route.does.does === "back";
    if (back && route.arrives !== before) {
      const other = this.routes(route.on.trigger).find(r => r.does.does === "back" && r.arrives === before && (r.on.layer || "") === (route.on.layer || "") && this.may(r));
      if (other) route = other;
    }
    const edges = this.state.edges[route.id];
    const edge = (back && before && edges.find(e => e[0] === before)) || edges[0];
    const [target, program, length, next] = edge, running = this.motion;
    const goal = this.data.frames[target];
    this.wantsEntrance = false; this.readyAt = null; this.returns = null;
    if (running) this.note("goes back", `at ${Math.round(Math.min(1, this.moment(running) / Math.max(running.end - running.start, 1e-9)) * 100)}%, keeps its speed`);
    this.note("starts", `to ${goal.name}, ${+DATA.programs[program].d.toPrecision(6)} ms`);
    for (const loop of this.state.loops) if (!this.loops.has(loop[0])) this.loops.set(loop[0], this.now);
    const place = this.offset(route, target, goal);
    this.places[this.state.frame] = this.scroll;
    this.remember(route.does.does);
    const left = this.scroll;
    this.scroll = place;
    this.at = next;
    const start = this.now + route.delay;
    this.motion = { route, program, start, end: start + length, to: next, was: left };
    this.beginParts(start);
    this.swap(program, running);
  }
  offset(route, target, goal) {
    const does = route.does.does;
    if (does === "show over" || does === "replace over" || route.reset) return [0, 0];
    const here = this.frame.most, there = goal.most, within = ([x, y]) => [Math.min(there[0], Math.max(0, x)), Math.min(there[1], Math.max(0, y))];
    const back = does === "back" || does === "put away";
    if (!back && here.some((v, k) => v > 0 && there[k] > 0)) return within(this.scroll);
    const known = this.places[target] || [0, 0];
    return there[0] || there[1] ? within(known) : back ? known : [0, 0];
  }
  arrive(at, running, first) {
    const again = running && running.route && running.route.restart, entered = running && running.entrance;
    this.at = at;
    this.entered = entered || (this.entered && !running);
    const own = this.state.loops;
    const kept = new Set(own.map(l => l[0]).filter(o => !again));
    for (const origin of [...this.loops.keys()]) if (!kept.has(origin)) this.loops.delete(origin);
    for (const loop of own) if (!this.loops.has(loop[0])) this.loops.set(loop[0], this.now);
    for (const origin of [...this.ends.keys()]) if (!this.loops.has(origin)) this.ends.delete(origin);
    this.motion = null;
    this.returns = null;
    this.lookAtLoops();
    this.lookAtFollows(true);
    if (!entered) this.fired = new Set();
    this.full = !!entered;
    this.keepParts();
    this.beginParts(this.now, again);
    this.feedParts();
    this.swap(entered ? this.state.entrance[3] : this.state.still, null);
    if (entered) return this.note("entrance", `of ${this.frame.name} is over`);
    this.arrived = this.now;
    this.note("arrives", this.frame.name + (first ? ", the first" : ""), this.frame.name);
    this.wantsEntrance = !!this.state.entrance;
    this.readyAt = this.now + this.loading;
    this.startLoading("starts");
    if (running) this.startBy(r => r.on.trigger === "ends" && r.on.motion === running.route.id);
    if (this.wantsEntrance && !this.motion && this.state.entrance[2] !== "after loading") this.enter();
    if (this.loading <= 0 && !this.leaving) this.loaded();
  }
  loaded() {
    this.readyAt = null;
    if (this.loading > 0) this.note("loaded", this.frame.name);
    this.startLoading("is ready");
    if (this.wantsEntrance && !this.motion) this.enter();
  }
  startLoading(when) {
    const all = this.routes("loading").filter(r => (r.on.when ?? "is ready") === when);
    for (const r of all.sort((a, b) => !stays(a) - !stays(b))) if (!this.leaving && this.may(r)) this.go(r);
  }
  enter() {
    const [program, length] = this.state.entrance;
    this.wantsEntrance = false;
    this.note("entrance", `of ${this.frame.name}`);
    this.motion = { route: { id: "" }, program, start: this.now, end: this.now + length, to: this.at, entrance: true, was: this.scroll };
    this.swap(program, null);
  }
  lookAtLoops() {
    for (const [origin, , , , until, round, wait] of this.state.loops) {
      const began = this.loops.get(origin);
      if (!until || began === undefined) continue;
      if (holds(until, this.inputs)) {
        if (!this.ends.has(origin)) this.ends.set(origin, began + wait + (this.now - began <= wait ? 0 : round * Math.ceil((this.now - began - wait) / round - 1e-9)));
      } else if (this.ends.has(origin)) {
        const end = this.ends.get(origin);
        this.ends.delete(origin);
        if (end <= this.now) this.loops.set(origin, this.now);
      }
    }
  }
  closeOver() {
    const state = this.state;
    if (!state.beneath.length || !state.closes) return false;
    const under = this.data.states[state.beneath[state.beneath.length - 1]].frame;
    const route = this.routes().find(r => r.does.does === "put away" && r.arrives === under);
    if (!route) return false;
    this.note("closes", this.frame.name);
    this.go(route);
    return true;
  }

  // Inputs and signals
  stay(does) {
    const entry = this.data.inputs.find(e => e[0] === does.input);
    if (!entry) return;
    if ("value" in does || does.does === "set input") this.become(entry, does.value ?? false); else this.signal(entry);
  }
  become(entry, to) {
    const old = this.inputs[entry[1]];
    this.inputs[entry[1]] = to;
    this.note("input", `${entry[1]} becomes ${said(to)}`);
    if (old === to) return;
    this.lookAtLoops();
    this.lookAtFollows();
    this.keepParts();
    this.beginParts(this.now);
    this.feedParts();
    this.startBy(r => r.on.trigger === "crosses" && r.on.input === entry[0] && crosses(r.on, old, to));
    for (const [id, state] of this.tracks) { this.aimTrack(state); this.unread.add(id); }
    this.happened(on => on.trigger === "crosses" && on.input === entry[0] && crosses(on, old, to));
  }
  signal(entry) {
    this.note("signal", entry[1]);
    for (const use of this.usesShown()) {
      const child = this.children.get(use[0]);
      if (!child) continue;
      for (const [input, name] of use[6]) {
        const inner = child.stage.data.inputs.find(e => e[0] === input && e[2] === "signal");
        if (name === entry[1] && inner) this.inChild(use[0], stage => { stage.touched(); stage.signal(inner); });
      }
    }
    this.startBy(r => r.on.trigger === "signal" && r.on.input === entry[0]);
    this.happened(on => on.trigger === "signal" && on.input === entry[0]);
  }
  tell(name, to, signal) {
    const entry = this.data.inputs.find(e => e[1] === name && (e[2] === "signal") === signal);
    this.touched();
    if (entry && signal) this.signal(entry); else if (entry) this.become(entry, to);
  }
  /* Something done in the part at the end of a path of names. */
  within(path, does) {
    if (!path) return does(this);
    const [name, ...rest] = path.split("/"), found = [...this.children].find(([, child]) => child.name === name);
    if (found) { this.touched(); this.inChild(found[0], stage => stage.within(rest.join("/"), does)); }
  }
  startBy(fits) {
    this.waiting.push(...this.routes().filter(fits).sort((a, b) => !stays(a) - !stays(b)));
    if (this.starting) return;
    this.starting = true;
    while (this.waiting.length && !this.halted) {
      const route = this.waiting.shift();
      if (this.counts(`${this.frame.name}: what sets and sends`) && route.leaves === this.state.frame && this.may(route)) this.go(route);
    }
    this.waiting = [];
    this.starting = false;
  }

  // Parts
  get frames() {
    const poses = [...this.tracks.values()].flatMap(state => this.phase(state).poses.map(id => this.data.frames[id]));
    return this.main ? poses : this.motion ? [this.frame, this.data.frames[this.data.states[this.motion.to].frame], ...poses] : [this.frame, ...poses];
  }
  usesShown() {
    const seen = new Map();
    for (const frame of this.frames) for (const u of frame.uses) if ((!u[8] || holds(u[8], this.inputs)) && DATA.parts[u[7]]) seen.set(u[0], u);
    return [...seen.values()];
  }
  beginParts(at, again) {
    for (const [origin, part, name, speed, offset, pose, , key] of this.usesShown()) {
      const there = this.children.get(origin);
      if (there && there.part === part && !again) continue;
      const data = DATA.parts[key];
      if (!data) continue;
      const child = { part, name, speed, offset, began: at, stage: null, key };
      let begun = false;
      const log = entry => { if (begun || entry.what !== "arrives") this.log({ ...entry, at: this.now, stage: entry.stage ? `${name}/${entry.stage}` : name }); };
      child.stage = new Stage(data, this.loading, log, pose, this.fed(origin, data));
      begun = true;
      this.children.set(origin, child);
      this.mount();
    }
  }
  keepParts() {
    const there = new Set(this.usesShown().map(u => u[0]));
    for (const origin of [...this.children.keys()]) if (!there.has(origin)) this.children.delete(origin);
  }
  fed(origin, data) {
    const use = this.usesShown().find(u => u[0] === origin), made = {};
    for (const [input, name, plain, expression] of use ? use[6] : []) {
      const entry = data.inputs.find(e => e[0] === input && e[2] !== "signal");
      if (!entry) continue;
      let v = expression ? value(expression, this.inputs) : name ? this.inputs[name] : plain;
      if (expression && typeof v !== "string") v = entry[2] === "number" ? number(v) : number(v) !== 0;
      const fits = entry[2] === "number" ? typeof v === "number" : entry[2] === "yes/no" ? typeof v === "boolean" : typeof v === "string";
      if (fits) made[entry[1]] = v;
    }
    return made;
  }
  feedParts() {
    for (const [origin, child] of this.children)
      for (const [name, v] of Object.entries(this.fed(origin, child.stage.data)))
        if (child.stage.inputs[name] !== v) this.inChild(origin, stage => { stage.touched(); stage.become(stage.data.inputs.find(e => e[1] === name), v); });
  }

  // Running orders
  track(id) { return this.data.orders.tracks.find(t => t.id === id); }
  phase(state) { return this.track(state.track).phases.find(p => p.id === state.phase); }
  beginOrders(pose) {
    this.oneThing(() => {
      for (const track of this.data.orders.tracks) {
        const first = track.id === this.main && pose ? track.phases.find(p => p.poses[0] === pose) : null;
        this.enterPhase(track, first || track.phases[0], null);
      }
    });
  }
  oneThing(does) {
    const outer = this.reading;
    this.reading = true;
    const result = does();
    this.reading = outer;
    this.goOn();
    return result;
  }
  goOn() {
    if (this.reading || !this.data.orders) return;
    this.reading = true;
    while ((this.unread.size || this.events.length) && !this.halted) {
      if (this.events.length) { this.offer(this.events.shift()); continue; }
      const [id] = this.unread, state = this.tracks.get(id);
      this.unread.delete(id);
      if (!state) continue;
      if (this.phase(state).lasts === "until" || state.ended) {
        const rule = this.holding(this.phase(state));
        if (rule) this.takeRule(state, rule);
      }
    }
    this.unread.clear();
    this.events = [];
    this.reading = false;
  }
  holding(phase) { return phase.then.find(r => !r.on && holds(r.if, this.inputs)); }
  happened(fits) {
    if (!this.data.orders) return false;
    if (this.reading) { this.events.push(fits); return false; }
    return this.oneThing(() => this.offer(fits));
  }
  offer(fits) {
    let taken = false;
    for (const id of [...this.tracks.keys()]) {
      const state = this.tracks.get(id), rule = this.phase(state).then.find(r => r.on && fits(r.on) && holds(r.if, this.inputs));
      if (rule) { this.takeRule(state, rule); taken = true; }
    }
    return taken;
  }
  nextRound(phase, ms) {
    const [lead, one, over] = phase.round;
    if (one <= 0 || over && ms >= over - 1e-9 * one) return ms;
    return lead + one * (Math.max(0, Math.floor((ms - lead) / one + 1e-9)) + 1);
  }
  nextOf(state) {
    const phase = this.phase(state), times = [state.ended || phase.end < 0 ? Infinity : state.began + phase.end];
    if (state.waits) times.push(state.waits[1]);
    phase.then.forEach((r, k) => { if (r.on && r.on.trigger === "timer" && !state.fired.has(k)) times.push(state.began + r.on.after); });
    return Math.min(...times);
  }
  fellDue(id) {
    this.oneThing(() => {
      const state = this.tracks.get(id), phase = this.phase(state);
      const timer = phase.then.findIndex((r, k) => r.on && r.on.trigger === "timer" && !state.fired.has(k) && state.began + r.on.after <= this.now);
      if (state.waits && state.waits[1] <= this.now) return this.changePhase(state, state.waits[0]);
      if (timer >= 0) {
        state.fired.add(timer);
        if (!holds(phase.then[timer].if, this.inputs)) return;
        this.note("timer", `after ${+(this.now - state.began).toPrecision(6)} ms`);
        return this.takeRule(state, phase.then[timer]);
      }
      state.ended = true;
      const rule = this.holding(phase), whole = phase.lasts === "once" || phase.lasts === "rounds";
      if (rule && (whole || !rule.finish)) this.changePhase(state, rule); else if (rule) this.takeRule(state, rule);
    });
  }
  takeRule(state, rule) {
    if (!rule.finish) return this.changePhase(state, rule);
    if (state.waits) return;
    const ends = state.began + this.nextRound(this.phase(state), this.now - state.began);
    if (ends <= this.now) this.changePhase(state, rule); else state.waits = [rule, ends];
  }
  changePhase(state, rule) {
    const track = this.track(state.track), next = track.phases.find(p => p.id === rule.to), old = this.phase(state);
    if (!next || !this.counts(`${track.name}: ${old.name}`)) return;
    for (const deed of old.out) this.stay(deed);
    this.enterPhase(track, next, rule);
  }
  enterPhase(track, phase, rule) {
    const old = this.tracks.get(track.id), main = track.id === this.main;
    const state = { track: track.id, phase: phase.id, began: this.now, ended: false, waits: null, fired: new Set(), wanted: 0, share: 0, since: this.now, lag: 0, lead: null };
    if (rule && rule.ms > 0 && old) state.lead = { start: this.now, duration: rule.ms, curve: rule.curve };
    if (phase.kind === "blend") {
      state.wanted = state.share = Math.min(1, Math.max(0, number(value(phase.by, this.inputs))));
      state.lag = phase.lag;
    }
    const before = this.host && old ? this.phaseViews(old) : null;
    this.tracks.set(track.id, state);
    this.unread.add(track.id);
    this.note("phase", main ? phase.name : `${track.name}: ${phase.name}`);
    if (main) {
      this.at = this.data.states.findIndex(s => s.frame === phase.at && !s.beneath.length);
      this.arrived = this.now;
      this.motion = null;
    }
    this.keepParts();
    this.beginParts(this.now);
    if (this.host) this.showPhase(state, before);
    for (const deed of phase.in) this.stay(deed);
  }
  aimTrack(state) {
    const phase = this.phase(state);
    if (phase.kind !== "blend") return;
    const wanted = Math.min(1, Math.max(0, number(value(phase.by, this.inputs))));
    if (wanted === state.wanted) return;
    state.share = this.farAlong(state);
    state.wanted = wanted;
    state.since = this.now;
  }
  farAlong(state) { return state.lag <= 0 ? state.wanted : state.wanted + (state.share - state.wanted) * Math.exp(-(this.now - state.since) / state.lag); }
  phaseMs(state, k) {
    const phase = this.phase(state), one = phase.length;
    if (phase.kind === "blend") return this.farAlong(state) * phase.ms[k];
    if (phase.kind !== "motion") return 0;
    const ms = this.now - state.began;
    return phase.lasts === "rounds" && one > 0 && ms >= one && ms < one * phase.count ? ms % one : Math.min(ms, one);
  }
  phaseSince(state) {
    const made = new Map([...this.follows].map(([clock, f]) => [clock, f.at(this.now) * 1000]));
    for (const origin of this.phase(state).loops) made.set(origin, this.now - state.began);
    return made;
  }
  /* The views of a track, and what they show now and 1 ms before. */
  phaseViews(state) {
    return this.track(state.track).places.map((place, k) => {
      const view = state.track === this.main ? this.view : this.sides.get(place)?.view;
      if (!view) return null;
      const ms = this.phaseMs(state, k), moves = !state.lead && this.phase(state).kind === "motion" && ms > 0 && ms < this.phase(state).length;
      const led = state.lead ? this.now - state.lead.start : 0;
      view.show(Math.max(0, ms - 1), this.phaseSince(state), null, () => false, led);
      const before = view.read();
      view.show(ms, this.phaseSince(state), null, () => false, led);
      const now = view.read();
      view.places = view.layers.map((_, n) => view.placed(n));
      return [view, before, now, moves ? 1 : 0];
    });
  }
  showPhase(state, before) {
    const phase = this.phase(state);
    this.track(state.track).places.forEach((place, k) => {
      const main = state.track === this.main, host = document.createElementNS("http://www.w3.org/2000/svg", "g"), side = this.sides.get(place);
      const old = main ? this.host : side && side.host;
      if (old && old.parentNode) old.replaceWith(host);
      const view = new View(phase.programs[k], host);
      const last = before && before[k];
      if (main) { this.view = view; this.host = host; } else this.sides.set(place, { view, host });
      if (last && state.lead && host.isConnected) {
        view.lead = state.lead;
        view.led = 0;
        view.takeOver(last[0], last[1], last[2], /motion|blend/.test(phase.kind) ? 0 : last[3], this.phaseMs(state, k));
      }
    });
    this.mount();
  }

  // On screen
  swap(program, running) {
    if (!this.host) return;
    let before = null, now = null, old = null, rate = 1;
    if (running && this.view) {
      old = this.view;
      const t = this.moment(running);
      old.show(t - 1, this.since(), null, () => false);
      before = old.read();
      old.show(t, this.since(), null, () => false);
      now = old.read();
      old.places = old.layers.map((_, k) => old.placed(k));
      rate = running.following ? running.following.speedAt(this.now) * (running.end - running.start) : t > 0 ? 1 : 0;
      const host = document.createElementNS("http://www.w3.org/2000/svg", "g");
      old.host.replaceWith(host);
      this.host = host;
    }
    this.view = new View(program, this.host);
    if (old) this.view.takeOver(old, before, now, rate);
    this.mount();
  }
  mount() {
    if (!this.view) return;
    for (const state of this.tracks.values()) if (state.track !== this.main) for (const place of this.track(state.track).places) {
      const el = this.view.uses.get(place), side = this.sides.get(place);
      if (el && side && !el.contains(side.host)) el.appendChild(side.host);
      else if (el && !side) { this.showPhase(state, null); return; }
    }
    for (const [origin, child] of this.children) {
      const el = this.viewsOf().map(view => view.uses.get(origin)).find(Boolean);
      if (!el || child.stage.host && el.contains(child.stage.host)) continue;
      if (!child.stage.host) {
        child.stage.host = document.createElementNS("http://www.w3.org/2000/svg", "g");
        child.stage.first();
      }
      el.appendChild(child.stage.host);
    }
  }
  viewsOf() { return this.view ? [this.view, ...[...this.sides.values()].map(side => side.view)] : []; }
  /* What a stage shows when it is first seen. */
  first() {
    if (this.main) for (const state of this.tracks.values()) this.showPhase(state, null);
    else this.swap(this.motion ? this.motion.program : this.full ? this.state.entrance[3] : this.state.still, null);
  }
  since() {
    const far = [...this.follows].map(([clock, f]) => [clock, f.at(this.now) * 1000]);
    return new Map(far.concat([...this.loops].map(([origin, at]) => [origin, (this.ends.has(origin) ? Math.min(this.now, this.ends.get(origin)) : this.now) - at])));
  }
  render() {
    const hidden = text => !holds(this.conditions(text), this.inputs);
    for (const state of this.tracks.values()) this.track(state.track).places.forEach((place, k) => {
      const view = state.track === this.main ? this.view : this.sides.get(place)?.view;
      if (view) view.show(this.phaseMs(state, k), this.phaseSince(state), null, hidden, state.lead ? this.now - state.lead.start : 0);
    });
    if (!this.main) this.renderFrame(hidden);
    for (const child of this.children.values()) {
      child.stage.now = Math.max(child.stage.now, (this.now - child.began) * child.speed + child.offset);
      if (child.stage.view) child.stage.render();
    }
  }
  renderFrame(hidden) {
    const motion = this.motion, moved = motion ? motion.was : this.scroll;
    const shift = moved[0] || moved[1] || this.scroll[0] || this.scroll[1] || this.shifted ? [...moved, ...this.scroll] : null;
    this.shifted = !!shift;
    if (shift && !motion) { shift[0] = this.scroll[0]; shift[1] = this.scroll[1]; shift[2] = shift[3] = 0; }
    if (shift && motion && motion.route.on && motion.route.on.trigger === "scroll") { shift[0] = this.scroll[0]; shift[1] = this.scroll[1]; }
    this.view.show(motion ? this.moment(motion) : 0, this.since(), shift, hidden);
  }
  conditions(text) { return DATA.conditions[text] ?? 0; }

  // Touches. Points are in px of the window
  under(x, y) {
    const side = this.motion && this.sureOf(this.motion) ? 1 : 0;
    const layers = this.view ? this.hits(this.view, x, y) : [];
    const use = layers.map(l => [l[3], l[2]].find(o => o && this.children.has(o))).find(Boolean);
    return { layers: layers.map(l => l[side ? 1 : 0]).filter(Boolean), child: use || "" };
  }
  /* The layers under a point, innermost first; what stands in for a side track is looked into. */
  hits(view, x, y) {
    const made = [];
    for (const k of view.at(x, y)) {
      const place = [view.l[k][3], view.l[k][2]].find(o => o && o.startsWith("track:"));
      if (!place) made.push(view.l[k]); else if (this.sides.has(place)) made.push(...this.hits(this.sides.get(place).view, x, y));
    }
    return made;
  }
  take(layers, fits) {
    const routes = this.routes().filter(r => fits(r.on) && this.may(r));
    for (const id of layers) {
      const route = routes.find(r => this.origin(r.on.layer || "") === this.origin(id));
      if (route) return [route, this.name(route.on.layer || layers[0])];
    }
    return null;
  }
  done(layers, fits, what, says) {
    const found = this.take(layers, fits);
    if (found) {
      this.note(what, says ? says(found[1]) : found[1]);
      this.go(found[0]);
      return true;
    }
    if (!this.data.orders) return false;
    this.held_back = [];
    const by = layers.find(id => this.happened(on => fits(on) && this.origin(on.layer || "") === this.origin(id)));
    const later = this.held_back;
    this.held_back = null;
    if (by !== undefined) this.note(what, (says || (name => name))(this.name(by || layers[0])));
    for (const entry of later) this.log(entry);
    return by !== undefined;
  }
  local(x, y) {
    const p = new DOMPoint(x, y).matrixTransform(this.view.host.getScreenCTM().inverse());
    return [p.x, p.y];
  }
  press(x, y) {
    this.touched();
    const box = this.state.box, [fx, fy] = this.local(x, y);
    this.pointer = [fx, fy, x, y]; this.inside = true;
    if (box && !(fx >= box[0] && fx < box[0] + box[2] && fy >= box[1] && fy < box[1] + box[3]) && this.closeOver()) {
      this.pressed = null; this.held = ""; this.grip = null;
      return false;
    }
    const { layers, child } = this.under(x, y);
    this.pressed = layers; this.pressedAt = this.now; this.pressedSpot = [fx, fy]; this.holds = new Set(); this.held = child; this.grip = null;
    const taken = child && this.inChild(child, stage => stage.press(x, y));
    if (!taken) this.gripped(layers, fx, fy);
    return taken || !!this.grip;
  }
  stood(x, y) {
    const [fx, fy] = this.local(x, y);
    return !!this.pressed && Math.hypot(fx - this.pressedSpot[0], fy - this.pressedSpot[1]) <= STILL;
  }
  // A tap is on all that the pointer went down on when it stood still, else on what it is still over.
  release(x, y, stood = this.stood(x, y)) {
    if (!this.pressed) return false;
    const pressed = this.pressed, held = this.children.get(this.held), { layers, child } = this.under(x, y);
    if (held) {
      const taken = this.inChild(this.held, stage => stood ? stage.release(x, y, true) : child === this.held ? stage.release(x, y) : stage.drop());
      if (taken) { this.pressed = null; this.held = ""; this.grip = null; return true; }
    }
    if (this.grip && this.letOff()) { this.pressed = null; this.held = ""; return true; }
    this.pressed = null;
    const down = new Set(pressed.map(id => this.origin(id)));
    const shared = stood ? pressed : layers.filter(id => down.has(this.origin(id)));
    const was = this.holds.size > 0, last = this.lastTap, at = this.now;
    const twice = on => on.trigger === "double tap" && last && at - last[0] <= (on.within ?? 300) && (!on.layer || last[1].some(id => this.origin(id) === this.origin(on.layer)));
    if (!was) {
      this.lastTap = null;
      if (this.done([...shared, ""], twice, "double tap")) return true;
      this.lastTap = [at, shared];
      if (this.done([...shared, ""], on => on.trigger === "tap", "tap")) return true;
    } else this.lastTap = null;
    if (this.done([...pressed, ""], on => on.trigger === "release", "release")) return true;
    if (!was) this.note("tap", `${shared.length ? this.name(shared[0]) : "nothing"}, nothing happens`);
    return false;
  }
  drop() {
    const held = this.children.get(this.held), inner = held && this.inChild(this.held, stage => stage.drop());
    this.pressed = null; this.held = "";
    return this.letOff() || inner;
  }
  move(x, y) {
    const { layers, child } = this.under(x, y), rested = this.atRest();
    for (const origin of new Set([this.over, rested.child, child, this.held]))
      if (this.children.has(origin)) this.inChild(origin, stage => origin === child || origin === this.held ? stage.move(x, y) : stage.out());
    this.over = child;
    const [fx, fy] = this.local(x, y);
    this.pointer = [fx, fy, x, y]; this.inside = true;
    this.hover(layers, rested.layers);
    this.dragged(fx, fy);
    this.pointed();
  }
  out() {
    const rested = this.atRest();
    for (const origin of new Set([this.over, rested.child])) if (this.children.has(origin)) this.inChild(origin, stage => stage.out());
    this.over = ""; this.inside = false;
    this.hover([], rested.layers);
  }
  // What lies under the pointer where it has been since it last moved: some of it may have come there by itself.
  atRest() {
    return this.pointer && this.inside ? this.under(this.pointer[2], this.pointer[3]) : { layers: [], child: "" };
  }
  hover(here, rested = []) {
    const before = this.hovered, known = new Set(before.map(id => this.origin(id))), now = new Set(here.map(id => this.origin(id)));
    const all = [...before, ...rested.filter(id => !known.has(this.origin(id)))], left = all.filter(id => !now.has(this.origin(id)));
    if (before.join("\0") === here.join("\0") && !left.length) return;
    this.touched();
    this.hovered = here;
    const came = here.filter(id => !known.has(this.origin(id)));
    this.done(all.length && !here.length ? [...left, ""] : left, on => on.trigger === "hover out", "hover", name => `off ${name}`);
    this.done(here.length && !before.length ? [...came, ""] : came, on => on.trigger === "hover in", "hover", name => `over ${name}`);
  }
  key(pressed) {
    this.touched();
    const found = this.take([""], on => on.trigger === "key" && (on.key ?? "Enter") === pressed);
    if (found) { this.note("key", pressed); this.go(found[0]); return true; }
    if (this.data.orders && this.done([""], on => on.trigger === "key" && (on.key ?? "Enter") === pressed, "key", () => pressed)) return true;
    for (const origin of this.children.keys()) if (this.inChild(origin, stage => stage.key(pressed))) return true;
    return pressed === "Escape" && this.closeOver();
  }
  scrollBy(dx, dy) {
    if (this.children.has(this.over) && this.inChild(this.over, stage => stage.scrollBy(dx, dy))) return true;
    this.touched();
    const most = [this.limit("right", this.frame.most[0]), this.limit("down", this.frame.most[1])], was = this.scroll;
    const to = [Math.min(most[0], Math.max(0, was[0] + dx)), Math.min(most[1], Math.max(0, was[1] + dy))];
    if (to[0] === was[0] && to[1] === was[1]) return false;
    this.scroll = to;
    this.lookAtFollows();
    ["right", "down"].forEach((axis, k) => {
      if (to[k] === was[k]) return;
      for (const r of this.routes("scroll")) if (r.on.axis === axis) this.aim(r, shareBetween(to[k], r.on.start, r.on.end), r.on.lag);
      const back = this.returns && this.returns.route.on;
      if (back && back.trigger === "scroll" && back.axis === axis) this.goBack(shareBetween(to[k], back.start, back.end));
    });
    if (!(this.grip && this.grip.moved)) this.pressed = this.grip = null;
    return true;
  }
  limit(axis, most) {
    const back = this.returns && this.returns.route.on, marks = back && back.trigger === "scroll" && back.axis === axis ? [back.start, back.end] : [];
    if (most <= 0) {
      for (const r of this.routes("scroll")) if (r.on.axis === axis) marks.push(r.on.start, r.on.end);
      for (const [, by, start, end] of this.state.follows) if (by.by === "scroll" && by.axis === axis) marks.push(start, end);
    }
    return Math.max(most, ...marks);
  }

  // What follows a value
  get shown() { return this.motion ? [this.state, this.data.states[this.motion.to]] : [this.state]; }
  lookAtFollows(anew) {
    const kept = new Map();
    for (const state of this.shown) for (const follow of state.follows) {
      const [clock, , , , lag] = follow, known = this.follows.get(clock), share = this.shareOf(follow);
      if (!known) kept.set(clock, new Following({ wanted: share ?? 0, share: share ?? 0, since: this.now, lag }));
      else kept.set(clock, share !== null && share !== known.wanted ? new Following({ ...known, lag }).aimed(this.now, share) : known);
    }
    this.follows = anew ? kept : new Map([...this.follows, ...kept]);
  }
  shareOf([, by, start, end]) {
    let v = null;
    if (by.by === "scroll") v = this.scroll[by.axis === "down" ? 1 : 0];
    else if (by.by === "pointer") v = this.pointerOver(by.layer, by.axis);
    else if (by.by === "input") {
      const entry = this.data.inputs.find(e => e[0] === by.input), known = entry && this.inputs[entry[1]];
      v = typeof known === "number" || typeof known === "boolean" ? +known : null;
    }
    return v === null ? null : shareBetween(v, start, end);
  }
  pointerOver(layer, axis) {
    if (!this.pointer) return null;
    if (!layer) return axis === "right" ? this.pointer[0] / this.frame.w : this.pointer[1] / this.frame.h;
    if (!this.hovered.some(id => this.origin(id) === this.origin(layer))) return null;
    const k = this.view.l.findIndex(l => l[0] === layer || l[1] === layer), matrix = k < 0 ? null : this.view.placed(k);
    if (!matrix) return null;
    const p = new DOMPoint(this.pointer[2], this.pointer[3]).matrixTransform(matrix.inverse());
    const [w, h] = parsed(this.view.layers[k].style.getPropertyValue("--box")).numbers;
    return axis === "right" ? p.x / w : p.y / h;
  }
  pointed() {
    this.lookAtFollows();
    for (const r of this.routes("pointer")) {
      const v = this.pointerOver(r.on.layer, r.on.axis);
      if (v !== null) this.aim(r, shareBetween(v, r.on.start, r.on.end), r.on.lag);
    }
    const back = this.returns && this.returns.route.on;
    if (back && back.trigger === "pointer") {
      const pair = back.layer && DATA.programs[this.returns.program] && this.view.l.find(l => l[1] && this.origin(l[1]) === this.origin(back.layer));
      const v = this.pointerOver(back.layer ? pair ? pair[1] : back.layer : "", back.axis);
      if (v !== null) this.goBack(shareBetween(v, back.start, back.end));
    }
  }
  aim(route, share, lag, pace = 0, held = false) {
    if (stays(route)) {
      if (share < 1) this.passed.delete(route.id);
      else if (!this.passed.has(route.id) && this.may(route)) { this.passed.add(route.id); this.go(route); }
      return;
    }
    const motion = this.motion;
    if (motion && motion.following && motion.route.id === route.id) {
      if (!motion.left) motion.following = motion.following.aimed(this.now, share, pace, held);
      return;
    }
    if (share <= 0 || !this.may(route)) return;
    if (motion && !held && (!motion.following || motion.left || motion.following.wanted > 0)) return;
    this.begin(route, new Following({ since: this.now, lag }).aimed(this.now, share, pace, held));
  }
  begin(route, following) {
    const running = this.motion, [target, program, length, next] = this.state.edges[route.id][0], byScroll = route.on.trigger === "scroll";
    const rest = !running || !this.sureOf(running) && running.following.at(this.now) <= CLOSE && running.following.speedAt(this.now) === 0;
    for (const loop of this.state.loops) if (!this.loops.has(loop[0])) this.loops.set(loop[0], this.now);
    this.returns = null; this.wantsEntrance = false;
    this.motion = { route, program, start: this.now, end: this.now + length, to: next, from: this.at, was: this.scroll, following, left: null, target };
    this.lookAtFollows();
    if (route.on.trigger !== "drag") this.note(byScroll ? "scroll" : "starts", `to ${this.data.frames[target].name}`);
    this.swap(program, rest ? null : running);
  }
  sure() {
    const motion = this.motion;
    if (!motion || motion.left) return;
    motion.left = { at: this.at, arrived: this.arrived, fired: this.fired, scroll: this.scroll, history: [...this.history] };
    this.places[this.state.frame] = this.scroll;
    const byScroll = motion.route.on.trigger === "scroll", place = byScroll ? this.scroll : this.offset(motion.route, motion.target, this.data.frames[motion.target]);
    this.remember(motion.route.does.does);
    this.at = motion.to;
    this.scroll = place;
    this.readyAt = null;
  }
  remember(does) {
    if (does === "back" || does === "put away") this.history.pop();
    else if (!(does === "replace over" || does === "go" && this.state.beneath.length)) this.history.push(this.state.frame);
  }
  unsure() {
    const motion = this.motion;
    if (!motion || !motion.left) return;
    this.backTo(motion.left);
    if (motion.route.on.trigger !== "scroll") this.scroll = motion.left.scroll;
    motion.left = null;
  }
  backTo(left) { this.at = left.at; this.arrived = left.arrived; this.fired = left.fired; this.history = [...left.history]; }
  finish() {
    const motion = this.motion;
    if (!motion.following) return this.arrive(motion.to, motion);
    if (motion.following.end) {
      this.sure();
      const left = motion.left, back = motion.route.on.trigger !== "drag";
      this.arrive(motion.to, motion);
      if (back && !this.motion) this.returns = { ...motion, left };
      return;
    }
    this.unsure();
    this.motion = null;
    this.swap(this.full ? this.state.entrance[3] : this.state.still, null);
    this.note("goes back", `to ${this.frame.name}`);
  }
  goBack(share) {
    const motion = this.returns;
    if (!motion || share >= 1 || this.motion || !motion.left) return;
    const following = new Following({ wanted: 1, share: 1, since: this.now, lag: motion.following.lag }).aimed(this.now, share);
    this.returns = null;
    this.motion = { ...motion, following, left: null };
    this.backTo(motion.left);
    this.swap(motion.program, null);
    this.note("goes back", `to ${this.frame.name}`);
  }

  // Drags
  dragsOn(layer) { return this.routes("drag").filter(r => r.on.layer === layer && this.may(r)); }
  followsOn(layer) { return this.state.follows.filter(f => f[1].by === "drag" && f[1].layer === layer); }
  takes(on, layers) {
    if (!on.layer) return true;
    const pairs = this.view.l.filter(l => l[0] === on.layer);
    return [on.layer, ...pairs.flatMap(l => [l[0], l[1]])].some(id => layers.includes(id));
  }
  gripped(layers, x, y) {
    let layer = [...layers, ""].find(id => this.dragsOn(id).length || this.followsOn(id).length), share = 0;
    const motion = this.motion, on = motion && motion.following && motion.route.on.trigger === "drag" ? motion.route.on : null;
    const takes = on && this.takes(on, layers);
    if (layer === undefined && takes) layer = "";
    if (layer === undefined) return;
    if (takes) {
      this.unsure();
      share = motion.following.at(this.now);
      motion.following = new Following({ ...motion.following, lag: on.lag }).aimed(this.now, share, 0, true);
      layer = on.layer;
      this.note("drag", `${layer ? this.name(layer) : "anywhere"} at ${share.toFixed(2)}`);
    }
    const follows = {};
    for (const [clock, , , , lag] of this.followsOn(layer)) {
      const known = this.follows.get(clock) || new Following({ lag });
      follows[clock] = known.at(this.now);
      this.follows.set(clock, known.aimed(this.now, follows[clock], 0, true));
    }
    const ways = {};
    for (const path of [...this.dragsOn(layer).map(r => r.on.path), ...this.followsOn(layer).map(f => f[1].path)]) {
      const found = path && this.along(path, x, y);
      if (found) ways[path] = found[0];
    }
    this.grip = { x, y, layer, share, follows, recent: [[this.now, x, y]], ways, moved: false };
  }
  /* How far along a path layer's first line a point is (0..1), and the length of the line. */
  along(id, x, y) {
    const points = this.frame.ways[id], k = this.view.l.findIndex(l => l[0] === id);
    if (!points || k < 0) return null;
    const path = document.createElementNS("http://www.w3.org/2000/svg", "path");
    let d = `M${points[0]} ${points[1]}`;
    for (let n = 2; n < points.length; n += 6) d += `C${points.slice(n, n + 6).join(" ")}`;
    path.setAttribute("d", d);
    const matrix = this.view.host.getScreenCTM().inverse().multiply(this.view.placed(k)), whole = path.getTotalLength();
    const far = s => { const p = path.getPointAtLength(s).matrixTransform(matrix); return Math.hypot(p.x - x, p.y - y); };
    let best = 0;
    for (let n = 0; n <= 200; n++) if (far(whole * n / 200) < far(best)) best = whole * n / 200;
    for (let step = whole / 200; step > whole / 1e5; step /= 2) for (const s of [best - step, best + step]) if (s >= 0 && s <= whole && far(s) < far(best)) best = s;
    return [best / whole, whole];
  }
  travel(by, x, y) {
    const grip = this.grip;
    if (by.along === "path") {
      const found = this.along(by.path, x, y);
      return found && by.path in grip.ways ? [(found[0] - grip.ways[by.path]) * found[1], found[1]] : [0, 0];
    }
    const [right, down] = { right: [1, 0], left: [-1, 0], down: [0, 1], up: [0, -1] }[by.along];
    return [(x - grip.x) * right + (y - grip.y) * down, 0];
  }
  speedOf(by) {
    const first = this.grip.recent[0], last = this.grip.recent[this.grip.recent.length - 1];
    return last[0] > first[0] ? (this.travel(by, last[1], last[2])[0] - this.travel(by, first[1], first[2])[0]) / (last[0] - first[0]) : 0;
  }
  dragged(x, y) {
    const grip = this.grip;
    if (!grip) return;
    grip.recent = [...grip.recent.filter(e => e[0] >= this.now - 60), [this.now, x, y]];
    for (const [clock, by, start, end] of this.followsOn(grip.layer)) {
      const whole = end - start;
      if (!(clock in grip.follows) || !whole) continue;
      const from = grip.follows[clock] ? start + grip.follows[clock] * whole : 0;
      const share = shareBetween(from + this.travel(by, x, y)[0], start, end), known = this.follows.get(clock);
      if (share === known.wanted) continue;
      grip.moved = true;
      this.follows.set(clock, known.aimed(this.now, share, this.speedOf(by) / whole, true));
    }
    const pull = route => {
      const [travel, length] = this.travel(route.on, x, y), whole = Math.max(length || route.on.travel, 1e-9);
      return { route, share: travel / whole, pace: this.speedOf(route.on) / whole };
    };
    let pulls = this.dragsOn(grip.layer).map(pull);
    const motion = this.motion;
    if (motion && motion.following && motion.following.held) {
      const own = pull(motion.route), share = grip.share + own.share;
      pulls = pulls.filter(p => p.share > 0 && p.route.id !== motion.route.id);
      if (share > 0 || !pulls.length) {
        if (share !== motion.following.wanted) grip.moved = true;
        motion.following = motion.following.aimed(this.now, share, own.pace, true);
        return;
      }
      motion.following = motion.following.aimed(this.now, 0);
    }
    const best = pulls.reduce((a, b) => !a || b.share > a.share ? b : a, null);
    if (!best || best.share <= 0) return;
    grip.moved = true;
    grip.share = 0;
    if (!stays(best.route)) this.note("drag", `${grip.layer ? this.name(grip.layer) : "anywhere"}, to ${this.data.frames[best.route.arrives].name}`);
    this.aim(best.route, best.share, best.route.on.lag, best.pace, true);
  }
  letOff() {
    const grip = this.grip, motion = this.motion;
    this.grip = null;
    if (!grip) return false;
    for (const [clock, by] of this.followsOn(grip.layer))
      if (clock in grip.follows && this.follows.has(clock)) this.follows.set(clock, this.follows.get(clock).letGo(this.now, by.let_go, 0.5, 300));
    if (!motion || !motion.following || !motion.following.held || motion.route.on.trigger !== "drag") return grip.moved;
    const on = motion.route.on, known = motion.following;
    motion.following = known.letGo(this.now, on.let_go, on.lets_go, motion.end - motion.start);
    const settles = motion.following.settling;
    this.note("let go", `at ${known.wanted.toFixed(2)}, ${!settles ? "stays" : motion.following.end ? "goes on" : "goes back"}`);
    if (settles && motion.following.end) this.sure();
    return grip.moved;
  }
}
const crosses = (on, old, to) => {
  const mark = on.value ?? 1, way = on.way ?? "rising", all = [mark, old, to].every(v => typeof v === "number");
  const rises = all ? old < mark && mark <= to : old !== to && to === mark, falls = all ? old > mark && mark >= to : old !== to && old === mark;
  return way === "rising" ? rises : way === "falling" ? falls : rises || falls;
};

// --- The page
const entries = [];
let stage;
const start = ({ frame = "", inputs = {}, loading = 0, seed: chance = 1 } = {}) => {
  seed = chance;
  entries.length = 0;
  const first = Object.entries(DATA.project.frames).find(([id, f]) => id === frame || f.name === frame);
  root.innerHTML = "";
  stage = new Stage(DATA.project, loading, entry => entries.push(entry), first ? first[0] : "", inputs);
  stage.host = document.createElementNS("http://www.w3.org/2000/svg", "g");
  root.appendChild(stage.host);
  stage.first();
  show();
};
const show = () => {
  stage.render();
  const frame = stage.data.frames[stage.data.states[stage.state.beneath[0] ?? stage.at].frame];
  if (root.getAttribute("width") !== `${frame.w}`) { root.setAttribute("width", frame.w); root.setAttribute("height", frame.h); }
  if (live) live(stage);
};
const point = (x, y) => {
  const p = new DOMPoint(x, y).matrixTransform(root.getScreenCTM());
  return [p.x, p.y];
};
const made = does => (...given) => { stage.render(); const result = does(...given); show(); return result; };
return {
  start,
  advance: made(ms => stage.advance(stage.now + ms)),
  press: made((x, y) => stage.press(...point(x, y))),
  move: made((x, y) => stage.move(...point(x, y))),
  release: made((x, y) => { stage.release(...point(x, y)); }),
  scroll: made((dx, dy) => { stage.scrollBy(dx, dy); }),
  out: made(() => stage.out()),
  key: made(key => stage.key(key)),
  input: made((name, to, part) => stage.within(part, at => at.tell(name, to, false))),
  signal: made((name, part) => stage.within(part, at => at.tell(name, 0, true))),
  loaded: made(() => stage.loaded()),
  log: () => entries,
  now: () => stage.now,
  inputs: () => stage.data.inputs.map(e => [e[1], e[2], stage.inputs[e[1]]]),
  stage: () => stage,
  curve: k => curves[k],
  value,
};
};
