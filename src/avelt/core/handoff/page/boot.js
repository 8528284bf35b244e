/* Begins: by the clock and by hand, or (page.html#hold) only by what a tape says. */
(async () => {
  // Five digits are four bytes.
  const values = Object.fromEntries([...DIGITS].map((digit, k) => [digit, k])), words = new DataView(new ArrayBuffer(PACKED.length / 5 * 4));
  for (let k = 0; k < PACKED.length; k += 5) {
    let word = 0;
    for (let j = k; j < k + 5; j++) word = word * 85 + values[PACKED[j]];
    words.setUint32(k / 5 * 4, word);
  }
  const bytes = words.buffer.slice(0, LENGTH);
  const data = await new Response(new Blob([bytes]).stream().pipeThrough(new DecompressionStream("deflate-raw"))).json();
  // The player comes with the data, since that makes the page a third smaller; it leaves nothing global behind.
  const code = document.createElement("script");
  code.textContent = `document.currentScript.play = (() => { ${data.player}\nreturn play })()`;
  document.head.append(code);
  data.lines = data.lines.map(line => line.replace(/asset:([0-9a-f]+)/g, (_, id) => PICTURES[id] || ""));
  data.programs = data.order.reduce((programs, place, k) => { programs[place] = data.programs[k]; return programs }, []);
  const svg = document.querySelector("svg"), hold = location.hash.startsWith("#hold");
  // The quieter variant, for those who ask for less motion.
  if (data.calmProject && (hold ? location.hash === "#hold-quieter" : matchMedia("(prefers-reduced-motion: reduce)").matches))
    [data.project, data.parts] = [data.calmProject, data.calmParts];
  await document.fonts.ready;
  let seen = null;
  const buttons = stage => {
    if (seen === stage.view) return;
    seen = stage.view;
    const hot = new Set(stage.routes().filter(r => ["tap", "double tap", "hold"].includes(r.on.trigger)).map(r => r.on.layer));
    stage.view.layers.forEach((el, k) => {
      const layer = stage.view.l[k];
      if (!hot.has(layer[1]) && !hot.has(layer[0])) return;
      el.setAttribute("role", "button");
      el.setAttribute("tabindex", "0");
      el.setAttribute("aria-label", layer[6]);
    });
  };
  const player = code.play(data, svg, buttons);
  player.start();
  if (hold) { window.avelt = player; return; }
  const of = event => {
    const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return [p.x, p.y];
  };
  svg.addEventListener("pointerdown", event => { svg.setPointerCapture(event.pointerId); player.move(...of(event)); player.press(...of(event)); });
  svg.addEventListener("pointermove", event => player.move(...of(event)));
  svg.addEventListener("pointerup", event => player.release(...of(event)));
  svg.addEventListener("pointerleave", () => player.out());
  svg.addEventListener("wheel", event => { event.preventDefault(); player.scroll(event.deltaX, event.deltaY); }, { passive: false });
  addEventListener("keydown", event => {
    const focus = document.activeElement;
    if (event.target.matches("input, select")) return;
    if ((event.key === "Enter" || event.key === " ") && focus && focus.getAttribute("role") === "button") {
      const box = focus.getBoundingClientRect(), p = of({ clientX: box.left + box.width / 2, clientY: box.top + box.height / 2 });
      player.press(...p);
      player.release(...p);
      event.preventDefault();
    } else if (player.key(event.key)) event.preventDefault();
  });
  if (new URLSearchParams(location.search).has("inputs")) {
    const form = document.body.appendChild(document.createElement("form"));
    form.onsubmit = event => event.preventDefault();
    for (const [name, kind, now] of player.inputs()) {
      const label = form.appendChild(document.createElement("label"));
      label.append(`${name} `);
      const field = label.appendChild(document.createElement(kind === "signal" ? "button" : "input"));
      if (kind === "signal") { field.textContent = "send"; field.onclick = () => player.signal(name); continue; }
      field.type = kind === "yes/no" ? "checkbox" : kind === "number" ? "number" : "text";
      if (kind === "yes/no") field.checked = now; else field.value = now;
      field.onchange = () => player.input(name, kind === "yes/no" ? field.checked : kind === "number" ? +field.value : field.value);
    }
  }
  let last = performance.now();
  const tick = now => { player.advance(Math.max(0, now - last)); last = now; requestAnimationFrame(tick); };
  requestAnimationFrame(tick);
})();
