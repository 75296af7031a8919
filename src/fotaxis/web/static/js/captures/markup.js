// Markup made here: what stands in it as text is made harmless first.
/** Text that stands in markup as it is. @param {unknown} value */
export function text(value) {
  return String(value ?? "").replace(/[&<>"']/g, (ch) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;", "'": "&#39;" })[ch]);
}
