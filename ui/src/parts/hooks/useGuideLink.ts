import { type To, useSearchParams } from "react-router";

/** In the address: the guide that is open beside the page, with a place in it after a point. */
export const GUIDE = "guide";

/** Where a link leads that opens a guide beside the page; without a name, one that closes it. */
export function useGuideLink() {
  const [search] = useSearchParams();
  return (name: string, anchor = ""): To => {
    const next = new URLSearchParams(search);
    if (name) next.set(GUIDE, anchor ? `${name}.${anchor}` : name);
    else next.delete(GUIDE);
    return { search: next.toString() };
  };
}
