import { useEffect, useRef } from "react";

/** Moves the focus to the new page's heading after a navigation, once the page is drawn. */
export function useHeadingFocus(pathname: string) {
  const last = useRef(pathname);
  useEffect(() => {
    if (last.current === pathname) return;
    last.current = pathname;
    const old = document.querySelector("main h1");
    const focused = document.activeElement;
    const take = () => {
      const heading = document.querySelector<HTMLElement>("main h1");
      if (!heading || (heading === old && heading.isConnected && focused !== document.activeElement))
        return false;
      // A page that has put the focus somewhere itself keeps it there.
      if (document.activeElement !== document.body && document.activeElement !== focused) return true;
      heading.tabIndex = -1;
      heading.focus({ preventScroll: true });
      return true;
    };
    if (take()) return;
    const seen = new MutationObserver(() => take() && seen.disconnect());
    seen.observe(document.body, { childList: true, subtree: true });
    return () => seen.disconnect();
  }, [pathname]);
}
