/** Light, dark, or as the system is; kept on this browser. */
export type Theme = "system" | "light" | "dark";

export function theme(): Theme {
  const kept = localStorage.getItem("theme");
  return kept === "light" || kept === "dark" ? kept : "system";
}

export function setTheme(wanted: Theme): void {
  localStorage.setItem("theme", wanted);
  apply(wanted);
}

function apply(wanted: Theme): void {
  if (wanted === "system") document.documentElement.removeAttribute("data-theme");
  else document.documentElement.setAttribute("data-theme", wanted);
}

apply(theme());
