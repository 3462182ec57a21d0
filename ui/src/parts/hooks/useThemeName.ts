import { useEffect, useState } from "react";

/** The theme that the page has now: what is drawn on a canvas is drawn again when it changes. */
export function useThemeName(): string {
  const [name, setName] = useState(document.documentElement.dataset.theme ?? "");
  useEffect(() => {
    const observer = new MutationObserver(() => setName(document.documentElement.dataset.theme ?? ""));
    observer.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    return () => observer.disconnect();
  }, []);
  return name;
}
