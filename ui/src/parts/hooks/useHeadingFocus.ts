import { useEffect, useRef } from "react";

/** After this time the element of the old heading is that of the new one too. */
const SAME_MS = 400;

/** Moves the focus to the new page's heading after a navigation, once the page is drawn. */
export function useHeadingFocus(pathname: string) {
  const last = useRef(pathname);
  const heading = useRef<Element | null>(null);
  useEffect(() => {
    const before = heading.current;
    const current = () => document.querySelector<HTMLElement>("main h1");
    const note = () => {
      heading.current = current();
    };
    if (last.current === pathname) {
      const seen = new MutationObserver(note);
      seen.observe(document.body, { childList: true, subtree: true });
      note();
      return () => seen.disconnect();
    }
    last.current = pathname;
    const focused = document.activeElement;
    const take = (waited: boolean) => {
      const now = current();
      // The heading of the page before, unless both pages are drawn by the same element.
      if (!now || (now === before && !waited)) return false;
      // A page that has put the focus somewhere itself keeps it there.
      const free = document.activeElement === document.body || document.activeElement === focused;
      if (free) {
        now.tabIndex = -1;
        now.focus({ preventScroll: true });
      }
      return true;
    };
    let done = take(false);
    const seen = new MutationObserver(() => {
      note();
      if (!done) done = take(false);
    });
    seen.observe(document.body, { childList: true, subtree: true });
    note();
    const rest = setTimeout(() => {
      if (!done) done = take(true);
    }, SAME_MS);
    return () => {
      clearTimeout(rest);
      seen.disconnect();
    };
  }, [pathname]);
}
