// A hand that holds a part of a drawing: told how far it has gone since it took hold, in pixels, until it lets go.

const LEAST_PX = 2;

/**
 * @param {any} part that takes the pointer
 * @param {PointerEvent} event of taking hold
 * @param {{move: (dx: number, dy: number, event: PointerEvent) => void, done: (moved: boolean, kept: boolean) => void, least?: number}} told
 *   least: pixels it must have gone to count as moved
 */
export function hold(part, event, { move, done, least = LEAST_PX }) {
  event.preventDefault();
  event.stopPropagation();
  part.setPointerCapture(event.pointerId);
  const { clientX: x, clientY: y } = event;
  let moved = false;
  const moves = (now) => {
    const dx = now.clientX - x, dy = now.clientY - y;
    moved ||= Math.hypot(dx, dy) >= least;
    if (moved) move(dx, dy, now);
  };
  const ends = (now) => {
    for (const [name, heard] of heardBy) part.removeEventListener(name, heard);
    done(moved, now.type === "pointerup");
  };
  const heardBy = [["pointermove", moves], ["pointerup", ends], ["pointercancel", ends]];
  for (const [name, heard] of heardBy) part.addEventListener(name, heard);
}
