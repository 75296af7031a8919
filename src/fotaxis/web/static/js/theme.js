// Dark unless this browser was set to light; runs before the page is painted.
(() => {
  const kept = (() => { try { return localStorage.getItem("fotaxis-theme"); } catch { return null; } })();
  document.documentElement.dataset.theme = kept === "light" ? "light" : "dark";
  document.addEventListener("click", (event) => {
    if (!/** @type {Element} */ (event.target).closest("[data-theme-switch]")) return;
    const next = document.documentElement.dataset.theme === "light" ? "dark" : "light";
    document.documentElement.dataset.theme = next;
    try { localStorage.setItem("fotaxis-theme", next); } catch { /* private window: the choice lasts for this page */ }
  });
})();
