// The report's figures, alive: targets to drag or type, percentiles to point at, drivers by other measures, single runs. It reads the
// page's own data and fetches nothing. Without it the page stands as it is. The explorer draws with it, too, and answers targets itself.
"use strict";
(function () {
  let data = null;
  const svgSpace = "http://www.w3.org/2000/svg";

  // Elements ------------------------------------------------------------------------------------------------------------

  function element(name, attributes, children) {
    return filled(document.createElement(name), attributes, children);
  }
  function drawn(name, attributes, children) {
    return filled(document.createElementNS(svgSpace, name), attributes, children);
  }
  function filled(node, attributes, children) {
    for (const key of Object.keys(attributes || {})) node.setAttribute(key, attributes[key]);
    for (const child of [].concat(children === undefined ? [] : children)) node.append(child);
    return node;
  }

  // Numbers as the page shows them ----------------------------------------------------------------------------------------

  function grouped(text) {
    const parts = text.split(".");
    if (parts[0].replace("-", "").length > 4) parts[0] = parts[0].replace(/\B(?=(\d{3})+$)/g, " ");
    return parts.join(".");
  }
  function significant(x) {
    if (!isFinite(x)) return x > 0 ? "Inf" : x < 0 ? "-Inf" : "-";
    const size = Math.abs(x);
    if (size !== 0 && (size < 1e-4 || size >= 1e9)) return x.toExponential(3).replace(/\.?0+e/, "e").replace(/e([+-])(\d)$/, "e$10$2");
    return grouped(String(Number(x.toPrecision(4))));
  }
  function shown(x, of) {
    if (typeof x === "string") return x;
    if (x === null || x === undefined) return "-";
    if (of.kind === "date") return isFinite(x) ? new Date(Math.floor(x) * 864e5).toISOString().slice(0, 10) : "-";
    if (of.kind === "yes/no" && (x === 0 || x === 1)) return x === 1 ? "yes" : "no";
    let decimals = of.decimals;
    if (decimals === null || decimals === undefined || !isFinite(x) || Math.abs(x) >= 1e9 || decimals > 9) return significant(x);
    if (of.kind === "whole" && x === Math.round(x)) decimals = Math.min(decimals, 0);
    const rounded = decimals < 0 ? Math.round(x * Math.pow(10, decimals)) / Math.pow(10, decimals) : x;
    const text = rounded.toFixed(Math.max(decimals, 0));
    return grouped(Number(text) === 0 ? text.replace("-", "") : text);
  }
  // As it was typed.
  function given(x, of) { return of.kind === "date" ? shown(x, of) : grouped(String(x)); }
  function withUnit(text, unit) { return unit ? text + " " + unit : text; }
  // What is not quite none or all never shows as that.
  function share(x) {
    const percent = 100 * x;
    if (percent > 0 && percent < 0.05) return "<0.1\u00a0%";
    if (percent < 100 && percent > 99.95) return ">99.9\u00a0%";
    return percent.toFixed(1) + "\u00a0%";
  }

  // A comma before three digits may part thousands or decimals: neither is guessed.
  function typedNumber(text) {
    const plain = text.replace(/\s/g, "");
    return plain === "" || /,\d{3}$/.test(plain) ? NaN : Number(plain.replace(",", "."));
  }

  // Shares of runs and their simulation error -------------------------------------------------------------------------------

  // Stirling's series, from 10 on (NIST Handbook, 5.11.1).
  function logGamma(x) {
    let less = 0;
    for (; x < 10; x++) less += Math.log(x);
    const r = 1 / (x * x);
    return (x - 0.5) * Math.log(x) - x + 0.9189385332046727 + (1 / 12 - r * (1 / 360 - r * (1 / 1260 - r / 1680))) / x - less;
  }
  // The beta distribution's cumulative share, by its continued fraction (NIST Handbook of Mathematical Functions, 8.17.22).
  function betaShare(x, a, b) {
    if (x <= 0) return 0;
    if (x >= 1) return 1;
    const front = Math.exp(logGamma(a + b) - logGamma(a) - logGamma(b) + a * Math.log(x) + b * Math.log1p(-x));
    if (x > (a + 1) / (a + b + 2)) return 1 - front * fraction(1 - x, b, a) / b;
    return front * fraction(x, a, b) / a;
  }
  function fraction(x, a, b) {
    const tiny = 1e-300;
    let c = 1, d = 1 - (a + b) * x / (a + 1);
    d = 1 / (Math.abs(d) < tiny ? tiny : d);
    let h = d;
    for (let m = 1; m <= 500; m++) {
      for (const term of [m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m)), -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1))]) {
        d = 1 + term * d;
        d = 1 / (Math.abs(d) < tiny ? tiny : d);
        c = 1 + term / c;
        if (Math.abs(c) < tiny) c = tiny;
        h *= d * c;
        if (term < 0 && Math.abs(d * c - 1) < 1e-13) return h;
      }
    }
    return h;
  }
  function betaQuantile(p, a, b) {
    let low = 0, high = 1;
    for (let k = 0; k < 60; k++) {
      const middle = (low + high) / 2;
      if (betaShare(middle, a, b) < p) low = middle; else high = middle;
    }
    return (low + high) / 2;
  }
  // Clopper and Pearson (1934).
  function interval(met, n) {
    return [met <= 0 ? 0 : betaQuantile(0.025, met, n - met + 1), met >= n ? 1 : betaQuantile(0.975, met + 1, n - met)];
  }
  // With the number of runs that the replicates' scatter is worth (Korn and Graubard 1998).
  function replicateInterval(met, sizes) {
    const k = sizes.length, n = sizes.reduce((a, b) => a + b, 0), p = met.reduce((a, b) => a + b, 0) / n;
    const shares = met.map((m, i) => m / sizes[i]), mean = shares.reduce((a, b) => a + b, 0) / k;
    const error = Math.sqrt(shares.reduce((sum, x) => sum + (x - mean) * (x - mean), 0) / (k - 1) / k);
    const worth = error > 0 ? p * (1 - p) / (error * error) * data.ratio : n;
    return interval(p * worth, worth);
  }

  function numbersOf(text, Kind) { return new Kind(Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer); }

  function prepared(output) {
    const values = numbersOf(output.values, Float64Array);
    output.known = values;
    output.replicate = output.replicates ? numbersOf(output.replicates, Uint16Array) : null;
    // values stand for ranks that are evenly apart where there are too many runs for all of them
    const last = values.length - 1;
    output.rank = (j) => output.exact ? j + 1 : Math.round(1 + (output.good - 1) * j / last);
    return output;
  }
  // How many values that are known are at or below x.
  function knownBelow(output, x) {
    let low = 0, high = output.known.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (output.known[middle] <= x) low = middle + 1; else high = middle;
    }
    return low;
  }
  // How many runs are.
  function runsBelow(output, x) {
    const j = knownBelow(output, x);
    if (output.exact || j === 0) return j;
    if (j === output.known.length) return output.good;
    return Math.round((output.rank(j - 1) + output.rank(j) - 1) / 2);
  }
  function chances(output, x) {
    const below = runsBelow(output, x), above = output.good - below;
    let low = null, high = null;
    if (output.replicate) {
      const met = data.sizes.map(() => 0), over = data.sizes.map(() => 0), upTo = knownBelow(output, x);
      output.replicate.forEach((r, i) => { (i < upTo ? met : over)[r]++; });
      low = replicateInterval(met, data.sizes);
      high = replicateInterval(over, data.sizes);
    } else if (!data.sizes) {
      low = interval(below, data.runs);
      high = interval(above, data.runs);
    }
    return { below: below / data.runs, above: above / data.runs, belowRange: low, aboveRange: high };
  }
  function quantile(output, p) {
    const at = p * (output.known.length - 1), j = Math.floor(at);
    const next = output.known[Math.min(j + 1, output.known.length - 1)];
    return output.known[j] + (at - j) * (next - output.known[j]);
  }

  // Axes ----------------------------------------------------------------------------------------------------------------

  function ticks(low, high, about) {
    const rough = (high - low) / about, power = Math.pow(10, Math.floor(Math.log10(rough)));
    const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= rough) || 10 * power;
    const out = [];
    for (let k = Math.ceil(low / step); k * step <= high + step * 1e-9; k++) out.push(k * step);
    return { at: out, decimals: Math.max(0, -Math.floor(Math.log10(step) + 1e-9)) };
  }
  function tickText(x, of, decimals) {
    if (of.kind === "date") return shown(Math.round(x), of);
    return Math.abs(x) >= 1e9 || (x !== 0 && decimals > 6) ? significant(x) : grouped((Math.abs(x) < 1e-12 ? 0 : x).toFixed(decimals));
  }
  function scale(from, to, low, high) {
    const span = high - low || 1;
    const at = (x) => from + (x - low) / span * (to - from);
    at.back = (px) => low + (px - from) / (to - from) * span;
    return at;
  }
  // `role`: a picture, or a group where there is something in it to be moved.
  function plot(width, height, label, role) {
    return drawn("svg", { viewBox: `0 0 ${width} ${height}`, role: role || "img", "aria-label": label, class: "plot" });
  }
  function axis(svg, at, of, low, high, y, left) {
    const marks = ticks(low, high, left ? 5 : 6);
    for (const x of marks.at) {
      const p = at(x);
      if (left) {
        svg.append(drawn("line", { x1: left, x2: y, y1: p, y2: p, class: "grid" }), drawn("text", { x: left - 8, y: p + 4, class: "tick end" }, tickText(x, of, marks.decimals)));
      } else {
        svg.append(drawn("line", { x1: p, x2: p, y1: 28, y2: y, class: "grid" }), drawn("text", { x: p, y: y + 20, class: "tick middle" }, tickText(x, of, marks.decimals)));
      }
    }
  }
  function titled(label, unit) { return unit ? `${label} [${unit}]` : label; }

  // A distribution with a target ------------------------------------------------------------------------------------------

  // `ask`: who answers a target that was moved, by calling what it is given with { below, above, belowRange, aboveRange }.
  function distribution(still, output, ask) {
    const width = 880, height = 380, left = 30, right = width - 62, bottom = height - 56, top = 28;
    let low = quantile(output, 0.002), high = quantile(output, 0.998);
    const reach = high - low || Math.abs(low) || 1;
    const others = (output.beside || []).filter((o) => o.good > 1).map(prepared);
    for (const o of others) { low = Math.min(low, quantile(o, 0.002)); high = Math.max(high, quantile(o, 0.998)); }
    for (const x of [output.base].concat(output.limits)) {
      if (typeof x === "number" && x > low - reach && x < high + reach) { low = Math.min(low, x); high = Math.max(high, x); }
    }
    const whole = output.kind === "date" || output.kind === "whole";
    low -= 0.03 * reach;
    high += 0.03 * reach;
    // bars of days and counts are so many of them wide, and begin between two
    const wide = whole ? Math.max(1, Math.ceil((high - low) / 44)) : (high - low) / 44;
    if (whole) low = Math.floor(low) - 0.5;
    const bins = Math.ceil((high - low) / wide - 1e-9);
    high = low + bins * wide;
    const at = scale(left, right, low, high), up = scale(bottom, top, 0, 1);
    const svg = plot(width, height, `Distribution of ${output.label}, with a target that can be moved`, "group");
    axis(svg, at, output, low, high, bottom);
    const counts = [];
    for (let b = 0; b < bins; b++) counts.push(runsBelow(output, low + (b + 1) * wide) - runsBelow(output, low + b * wide));
    const most = Math.max(1, ...counts);
    counts.forEach((count, b) => {
      const h = count / most * (bottom - top) * 0.9, x = left + b * (right - left) / bins;
      svg.append(drawn("rect", { x: x, width: (right - left) / bins - 1, y: bottom - h, height: h, class: "bar" }));
    });
    function curve(of, kind) {
      let path = "";
      for (let k = 0; k <= 240; k++) {
        const x = low + k / 240 * (high - low);
        path += `${k ? "L" : "M"}${at(x).toFixed(1)},${up(runsBelow(of, x) / of.good).toFixed(1)}`;
      }
      return svg.appendChild(drawn("path", { d: path, class: kind }));
    }
    curve(output, "curve");
    for (const p of [0, 0.5, 1]) svg.append(drawn("text", { x: right + 8, y: up(p) + 4, class: "tick" }, `${100 * p} %`));
    svg.append(drawn("text", { x: (left + right) / 2, y: height - 12, class: "tick middle" }, titled(output.label, output.unit)));
    function mark(x, text, kind, row) {
      if (typeof x !== "number" || x < low || x > high) return;
      const end = at(x) > (left + right) / 2;
      svg.append(drawn("line", { x1: at(x), x2: at(x), y1: top - 8, y2: bottom, class: kind }),
        drawn("text", { x: at(x) + (end ? -6 : 6), y: top + 2 + 16 * row, class: `note ${kind}${end ? " end" : ""}` }, text));
    }
    mark(output.base, `base case ${shown(output.base, output)}`, "base", 0);
    output.limits.forEach((x, i) => mark(x, `spec ${given(x, output)}`, "limit", i + 1));
    const pointer = drawn("circle", { r: 4, class: "pointer" });
    const line = drawn("line", { y1: top - 16, y2: bottom, class: "target" });
    const grip = drawn("circle", { cy: top - 16, r: 9, class: "grip", role: "slider", tabindex: 0, "aria-label": `Target for ${output.label}`, "aria-valuemin": low, "aria-valuemax": high });
    svg.append(pointer, line, grip);
    pointer.style.display = "none";

    const typed = element("input", { type: output.kind === "date" ? "date" : "text", inputmode: "decimal", "aria-label": `Target for ${output.label}`, size: 12 });
    const told = element("p", { class: "told", "aria-live": "polite", "data-told": output.name });
    const pointed = element("span", { class: "pointed" });
    const upTo = output.kind === "date" ? "on or before" : "at or below";
    // other results, each with a curve and a line of words that can be switched off
    const beside = element("ul", { class: "beside" });
    others.forEach((o, i) => {
      o.curve = curve(o, `curve other other-${i % 4}`);
      o.box = element("input", { type: "checkbox" });
      o.box.checked = true;
      o.line = element("span", { "data-beside": o.label });
      const key = drawn("svg", { viewBox: "0 0 34 10", width: 34, height: 10, "aria-hidden": true, class: "plot key" }, drawn("line", { x1: 0, x2: 34, y1: 5, y2: 5, class: `curve other other-${i % 4}` }));
      beside.append(element("li", {}, element("label", {}, [o.box, " ", key, " ", o.line])));
      o.box.addEventListener("change", () => { o.curve.style.display = o.box.checked ? "" : "none"; tellBeside(); });
    });
    function tellBeside() {
      for (const o of others) {
        const below = runsBelow(o, target), range = o.plain ? interval(below, o.runs) : null;
        o.line.textContent = `${o.label}${o.box.checked ? `: ${share(below / o.runs)} ${upTo}${range ? ` (${share(range[0])} to ${share(range[1])})` : ""}` : ""}`;
      }
    }
    let target = output.limits.length ? output.limits[0] : typeof output.base === "number" ? output.base : quantile(output, 0.5);
    const places = whole ? 0 : output.decimals;
    const unit = places === null || places === undefined ? Math.pow(10, Math.floor(Math.log10((high - low) / 200))) : Math.pow(10, -places);
    function rounded(x) { return Number((Math.round(x / unit) * unit).toPrecision(12)); }
    function set(x, from) {
      target = x;
      const inside = Math.min(Math.max(x, low), high);
      filled(line, { x1: at(inside), x2: at(inside) });
      filled(grip, { cx: at(inside), "aria-valuenow": x, "aria-valuetext": withUnit(shown(x, output), output.unit) });
      if (from !== typed) typed.value = output.kind === "date" ? shown(x, output) : String(x);
      tellBeside();
      if (ask) ask(x, (c) => { if (x === target) tell(x, c); }); else tell(x, chances(output, x));
    }
    function tell(x, c) {
      const failed = data.runs - output.good;
      const range = (r) => r ? ` (${share(r[0])} to ${share(r[1])})` : "";
      const value = withUnit(given(x, output), output.unit);
      told.replaceChildren(element("strong", {}, share(c.below)), ` of runs are ${upTo} ${value}${range(c.belowRange)}; `,
        element("strong", {}, share(c.above)), ` are ${output.kind === "date" ? "later" : "above"}${range(c.aboveRange)}.`, failed ? ` ${share(failed / data.runs)} failed.` : "");
      told.dataset.below = c.below;
      told.dataset.above = c.above;
      if (c.belowRange) told.dataset.low = c.belowRange[0], told.dataset.high = c.belowRange[1];
    }
    const place = (event) => {
      const box = svg.getBoundingClientRect();
      return at.back((event.clientX - box.left) / box.width * width);
    };
    let dragging = false;
    svg.addEventListener("pointerdown", (event) => {
      dragging = true;
      if (svg.setPointerCapture && event.isTrusted) svg.setPointerCapture(event.pointerId);
      set(rounded(place(event)));
      event.preventDefault();
      grip.focus({ preventScroll: true });
    });
    for (const end of ["pointerup", "pointercancel"]) svg.addEventListener(end, () => { dragging = false; });
    svg.addEventListener("pointermove", (event) => {
      const x = place(event);
      if (dragging) { set(rounded(Math.min(Math.max(x, low), high))); return; }
      const p = runsBelow(output, x) / output.good;
      filled(pointer, { cx: at(x), cy: up(p) });
      pointer.style.display = x < low || x > high ? "none" : "";
      pointed.textContent = `P${(100 * p).toFixed(0)}: ${withUnit(shown(rounded(x), output), output.unit)}`;
    });
    svg.addEventListener("pointerleave", () => { pointer.style.display = "none"; pointed.textContent = ""; });
    grip.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 }[event.key];
      if (by) set(rounded(target + by * Math.max(unit, output.kind === "date" ? 1 : (high - low) / 200)));
      else if (event.key === "Home") set(rounded(low));
      else if (event.key === "End") set(rounded(high));
      else return;
      event.preventDefault();
    });
    typed.addEventListener("input", () => {
      const x = output.kind === "date" ? Date.parse(typed.value) / 864e5 : typedNumber(typed.value);
      typed.toggleAttribute("aria-invalid", !isFinite(x));
      pointed.textContent = isFinite(x) ? "" : output.kind === "date" ? "Give a day" : "Give a number such as 1250 or 0.5";
      if (isFinite(x)) set(x, typed);
    });
    const outside = 1 - (runsBelow(output, high) - runsBelow(output, low)) / output.good;
    live(still, [element("p", { class: "asks" }, [element("label", {}, ["Target ", typed, output.unit ? ` ${output.unit}` : ""]), " ", pointed]), svg, told, others.length ? beside : "",
      element("p", { class: "note" }, `Drag the line, type a number, or point at the curve. ${ask ? "Chances are of all runs" : output.exact ? "Shares are exact for these runs" : "Shares are within 0.01 points of the runs'"}${others.some((o) => !o.exact) ? ", those of results beside within 0.02 points" : ""}`
        + `${ask || output.replicate || !data.sizes ? "; in brackets is the simulation error (95 %)" : "; their simulation error takes every run of each replicate, which the page does not carry"}${outside > 0 ? `. ${share(outside)} of the runs lie beyond the axis` : ""}.`)]);
    set(output.limits.length ? target : rounded(target));
  }

  // The panel before a still figure, which stays for print.
  function live(still, children) {
    still.classList.add("still");
    still.before(element("div", { class: "live" }, children));
  }

  // Drivers by several measures ---------------------------------------------------------------------------------------------

  function driven(still, measures) {
    const choose = element("select", { "aria-label": "Measure" }, measures.map((m, i) => element("option", { value: i }, m.title)));
    const holder = element("div"), about = element("p", { class: "note" });
    function draw() {
      const measure = measures[choose.value], rows = measure.rows, row = 30, width = 880, left = 250, height = 34 + row * rows.length;
      const biggest = Math.max(...rows.map((r) => Math.abs(r.value)), 1e-300), signed = rows.some((r) => r.value < 0);
      const at = signed ? scale(left + 70, width - 90, -biggest, biggest) : scale(left + 20, width - 90, 0, biggest);
      const svg = plot(width, height, `${measure.title}: ${rows.map((r) => `${r.label} ${r.shown}`).join(", ")}`);
      rows.forEach((r, i) => {
        const y = 14 + i * row, zero = at(0), end = at(r.value);
        const label = drawn("text", { x: left, y: y + 15, class: "tick end" }, r.label.length > 34 ? r.label.slice(0, 33) + "\u2026" : r.label);
        svg.append(label, drawn("rect", { x: Math.min(zero, end), width: Math.max(Math.abs(end - zero), 1), y: y, height: 21, class: r.noise ? "bar quiet" : r.value < 0 || r.sign === "lowers" ? "bar lowers" : "bar raises" }),
          drawn("text", { x: end + (r.value < 0 ? -6 : 6), y: y + 15, class: r.value < 0 ? "tick end" : "tick" }, r.shown));
        if (i === 0) svg.append(drawn("line", { x1: zero, x2: zero, y1: 8, y2: height - 14, class: "zero" }));
      });
      holder.replaceChildren(svg);
      about.textContent = `${measure.about}. Dark: a higher input raises the output; light: it lowers it; grey: not told from noise.`;
    }
    choose.addEventListener("change", draw);
    live(still, [element("p", { class: "asks" }, element("label", {}, ["Drivers by ", choose])), holder, about]);
    draw();
  }

  // Single runs ---------------------------------------------------------------------------------------------------------------

  function runs(holder) {
    const all = data.columns, width = 880, height = 420, left = 86, right = width - 20, bottom = height - 56;
    const numeric = all.filter((c) => typeof c.values.find((v) => v !== null) === "number");
    if (numeric.length < 2) return;
    const select = (label, chosen) => {
      const box = element("select", { "aria-label": label }, numeric.map((c) => element("option", { value: c.name }, c.label)));
      box.value = chosen;
      return box;
    };
    const across = select("Across", data.across), upwards = select("Upwards", data.upwards);
    const picture = element("div"), table = element("div", { class: "wide", "aria-live": "polite" });
    let picked = 0;
    const of = (name) => numeric.find((c) => c.name === name);
    function pick(i) {
      picked = i;
      const cells = all.map((c) => element("tr", {}, [element("td", {}, c.label), element("td", { class: "number" }, shown(c.values[i], c)), element("td", {}, c.unit)]));
      table.replaceChildren(element("table", { "data-run": data.numbers[i] }, [element("caption", {}, `Run ${data.numbers[i]}`), element("tbody", {}, cells)]));
      picture.querySelectorAll(".dot").forEach((dot) => dot.classList.toggle("picked", Number(dot.dataset.place) === i));
    }
    function draw() {
      const a = of(across.value), b = of(upwards.value);
      const range = (c) => {
        const good = c.values.filter((v) => v !== null);
        const low = Math.min(...good), high = Math.max(...good), edge = 0.04 * (high - low || Math.abs(low) || 1);
        return [low - edge, high + edge];
      };
      const x = range(a), y = range(b), at = scale(left, right, x[0], x[1]), up = scale(bottom, 28, y[0], y[1]);
      const svg = plot(width, height, `${b.label} against ${a.label}`);
      axis(svg, at, a, x[0], x[1], bottom);
      axis(svg, up, b, y[0], y[1], right, left);
      svg.append(drawn("text", { x: (left + right) / 2, y: height - 12, class: "tick middle" }, titled(a.label, a.unit)), drawn("text", { x: left, y: 16, class: "tick" }, titled(b.label, b.unit)));
      data.numbers.forEach((number, i) => {
        if (a.values[i] === null || b.values[i] === null) return;
        const dot = drawn("circle", { cx: at(a.values[i]), cy: up(b.values[i]), r: 5, class: "dot", tabindex: -1, "data-place": i, "aria-label": `Run ${number}` });
        dot.addEventListener("click", () => pick(i));
        svg.append(dot);
      });
      picture.replaceChildren(svg);
      pick(picked);
    }
    for (const box of [across, upwards]) box.addEventListener("change", draw);
    const number = element("input", { type: "number", min: data.numbers[0], max: data.numbers[data.numbers.length - 1], "aria-label": "Run", value: data.numbers[0] });
    number.addEventListener("input", () => {
      const i = data.numbers.indexOf(Number(number.value));
      if (i >= 0) pick(i);
    });
    holder.append(element("p", { class: "asks" }, [element("label", {}, ["Upwards ", upwards]), " ", element("label", {}, ["across ", across]), " ", element("label", {}, ["run ", number])]), picture,
      element("p", { class: "note" }, `The first ${data.numbers.length} runs. Pick one to see all of it.`), table);
    holder.closest("section").hidden = false;
    draw();
  }

  // Outputs can be left out.
  function chooser(outputs) {
    const sections = [...document.querySelectorAll("section[data-output]")];
    if (sections.length < 2) return;
    const boxes = sections.map((section) => {
      const box = element("input", { type: "checkbox" });
      box.checked = true;
      box.addEventListener("change", () => { section.hidden = !box.checked; });
      return element("label", {}, [box, " ", section.querySelector("h2").textContent, " "]);
    });
    sections[0].before(element("p", { class: "live asks", role: "group", "aria-label": "Outputs shown" }, ["Show: "].concat(boxes)));
  }

  function start() {
    const outputs = data.outputs.map(prepared);
    chooser(outputs);
    for (const output of outputs) {
      const still = document.querySelector(`figure[data-live="distribution"][data-of="${CSS.escape(output.name)}"]`);
      if (still && output.good > 1) distribution(still, output);
      const tornado = document.querySelector(`figure[data-live="tornado"][data-of="${CSS.escape(output.name)}"]`);
      if (tornado && output.drivers.length) driven(tornado, output.drivers);
    }
    const holder = document.getElementById("single-runs");
    if (holder) runs(holder);
  }

  const own = document.getElementById("ensayo-data");
  if (own) {
    data = JSON.parse(own.textContent);
    start();
  } else {
    window.ensayoDistribution = (holder, given, ask) => {
      data = given;
      const still = element("div");
      holder.replaceChildren(still);
      distribution(still, prepared(data.outputs[0]), ask);
    };
  }
})();
