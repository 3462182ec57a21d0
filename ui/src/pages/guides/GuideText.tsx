import { useQuery } from "@tanstack/react-query";
import { Children, type ReactNode, useEffect } from "react";
import Markdown, { type Components } from "react-markdown";
import { Link, type To } from "react-router";
import remarkGfm from "remark-gfm";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { anchorOf, guideText } from "./guides";
import { Shortcuts } from "./Shortcuts";

interface Props {
  name: string;
  anchor: string;
  /** Whether it is beside a page, whose heading is the first one. */
  beside?: boolean;
  /** Where a link to another guide leads. */
  to: (name: string, anchor: string) => To;
}

/** The text of a guide, with the place that was asked for in view. */
export function GuideText({ name, anchor, beside, to }: Props) {
  const keys = name === "shortcuts";
  const { data, error } = useQuery({
    queryKey: ["guide", name],
    queryFn: () => guideText(name),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: !keys,
    retry: false,
  });
  useEffect(() => {
    if (data || keys) document.getElementById(anchor)?.scrollIntoView();
  }, [data, keys, anchor]);
  const parts: Components = {
    ...(beside && { h1: ({ children }) => <h2 className="guide-title">{children}</h2> }),
    h2: ({ children }) => <h2 id={anchorOf(textOf(children))}>{children}</h2>,
    h3: ({ children }) => <h3 id={anchorOf(textOf(children))}>{children}</h3>,
    // Code and tables that are wider than the page scroll by themselves.
    pre: ({ children }) => (
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by keys
      <pre tabIndex={0}>{children}</pre>
    ),
    a: ({ href = "", children }) => {
      const [, other, place = ""] = /^(?:\.\/)?([a-z-]+)\.md(?:#(.*))?$/.exec(href) ?? [];
      return other ? (
        <Link className="link link-primary" to={to(other, place)}>
          {children}
        </Link>
      ) : (
        <a className="link link-primary" href={href}>
          {children}
        </a>
      );
    },
  };
  return (
    <article className="guide min-w-0 max-w-3xl" data-testid="guide">
      <ErrorAlert error={error} />
      {keys ? (
        <>
          {beside ? <h2 className="guide-title">Keyboard shortcuts</h2> : <h1>Keyboard shortcuts</h1>}
          <Shortcuts />
        </>
      ) : (
        data && (
          <Markdown remarkPlugins={[remarkGfm]} components={parts}>
            {data}
          </Markdown>
        )
      )}
    </article>
  );
}

const textOf = (children: ReactNode): string =>
  Children.toArray(children)
    .map((child) => (typeof child === "string" ? child : ""))
    .join("");
