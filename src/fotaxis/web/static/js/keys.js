// Everything frequent has a key; the card that lists them opens on "?".

export function bindKeys(bench) {
  addEventListener("keydown", (event) => {
    const dialog = event.target.closest?.("dialog[open]");
    if (dialog && event.key === "Escape" && !event.target.closest("select, input")) {
      // At once: the browser's own closing comes a moment later, and the next key is meant for the bench.
      event.preventDefault();
      dialog.close();
      return;
    }
    const typing = event.target.closest?.("input:not([type=range]):not([type=color]), textarea, select, dialog");
    const command = event.ctrlKey || event.metaKey;
    if (command && event.key.toLowerCase() === "z" && !typing) {
      event.preventDefault();
      if (event.shiftKey) bench.redo();
      else bench.undo();
      return;
    }
    if (typing || command) return;
    const step = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
    const turn = event.shiftKey ? 10 : 1;
    const moves = {
      ArrowLeft: [[["place", "x_cm"], -step]], ArrowRight: [[["place", "x_cm"], step]],
      ArrowUp: [[["place", "z_cm"], -step]], ArrowDown: [[["place", "z_cm"], step]],
      PageUp: [[["place", "y_cm"], step]], PageDown: [[["place", "y_cm"], -step]],
      q: [[["turn_deg"], -turn]], e: [[["turn_deg"], turn]], r: [[["tilt_deg"], turn]], f: [[["tilt_deg"], -turn]],
    };
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    if (moves[key] && bench.selected && !event.target.closest("input")) {
      event.preventDefault();
      bench.nudge(moves[key], key.length === 1 ? "Turned by keys" : "Nudged");
      return;
    }
    const group = bench.light(bench.selected)?.group;
    const done = {
      "?": () => document.getElementById("keys").showModal(),
      escape: () => letGo(bench),
      n: () => bench.adding.open(),
      t: () => bench.drawings.measuring(!document.body.classList.contains("measuring")),
      m: () => bench.mirror(),
      w: () => bench.powers.walk(),
      k: () => bench.picture.toggleMark("blackPoint"),
      i: () => bench.readings.toggle(),
      p: () => bench.compare.pinNow(),
      c: () => event.repeat || bench.compare.turn("flip"),
      u: () => bench.switchUnit(),
      "[": () => bench.reorder(-1),
      "]": () => bench.reorder(1),
      b: () => bench.picture.blackFrame(),
      z: () => bench.picture.toggleMark("zebra"),
      o: () => bench.powers.toggle(bench.selected),
      g: () => group && bench.powers.switchGroup(group),
      ".": () => group && bench.powers.stepGroup(group, 1),
      ",": () => group && bench.powers.stepGroup(group, -1),
      a: () => bench.light(bench.selected) && bench.powers.solo(bench.selected),
      "+": () => bench.powers.step(bench.selected, 1),
      "=": () => bench.powers.step(bench.selected, 1),
      "-": () => bench.powers.step(bench.selected, -1),
    }[key.toLowerCase()];
    if (done) {
      event.preventDefault();
      done();
      return;
    }
    if (/^[1-9]$/.test(key)) {
      const light = bench.state.lights[Number(key) - 1];
      if (light) bench.select(bench.selected === light.key ? "" : light.key);
    }
  });
  addEventListener("keyup", (event) => {
    if (event.key.toLowerCase() === "c" && bench.compare.mode === "flip") bench.compare.turn("");
  });
}

// One thing after the other: a comparison, a spot being placed, the tape, at last the selection.
function letGo(bench) {
  if (bench.compare.mode) bench.compare.turn("");
  else if (bench.readings.placing) bench.readings.place(false);
  else if (document.body.classList.contains("measuring")) bench.drawings.measuring(false);
  else bench.select("");
}
