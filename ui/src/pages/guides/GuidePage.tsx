import { useQuery } from "@tanstack/react-query";
import { Children, type ReactNode, useEffect } from "react";
import Markdown, { type Components } from "react-markdown";
import { NavLink, useLocation, useParams } from "react-router";
import remarkGfm from "remark-gfm";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { anchorOf, GUIDES, guideText } from "./guides";
import { Shortcuts } from "./Shortcuts";

/** A guide, with the others beside it; served by Vexel itself. */
export function GuidePage() {
  const { name = GUIDES[0].name } = useParams();
  const { hash } = useLocation();
  const keys = name === "shortcuts";
  const { data, error } = useQuery({
    queryKey: ["guide", name],
    queryFn: () => guideText(name),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: !keys,
    retry: false,
  });
  useEffect(() => {
    if (data || keys) document.getElementById(hash.slice(1))?.scrollIntoView();
  }, [data, keys, hash]);
  const link = ({ isActive }: { isActive: boolean }) =>
    `block rounded px-2 py-1 ${isActive ? "bg-primary font-semibold text-primary-content" : "hover:bg-base-200"}`;
  return (
    <div className="mx-auto grid max-w-6xl grid-cols-[220px_1fr] gap-8 px-6 py-5 max-lg:grid-cols-1">
      <nav aria-label="Guides" className="sticky top-5 self-start text-body">
        {GUIDES.map((guide) => (
          <NavLink key={guide.name} to={`/guides/${guide.name}`} className={link}>
            {guide.title}
          </NavLink>
        ))}
        <NavLink to="/guides/shortcuts" className={link}>
          Keyboard shortcuts
        </NavLink>
      </nav>
      <article className="guide min-w-0 max-w-3xl" data-testid="guide">
        <ErrorAlert error={error} />
        {keys ? (
          <>
            <h1>Keyboard shortcuts</h1>
            <Shortcuts />
          </>
        ) : (
          data && (
            <Markdown remarkPlugins={[remarkGfm]} components={PARTS}>
              {data}
            </Markdown>
          )
        )}
      </article>
    </div>
  );
}

const textOf = (children: ReactNode): string =>
  Children.toArray(children)
    .map((child) => (typeof child === "string" ? child : ""))
    .join("");

const PARTS: Components = {
  h2: ({ children }) => <h2 id={anchorOf(textOf(children))}>{children}</h2>,
  h3: ({ children }) => <h3 id={anchorOf(textOf(children))}>{children}</h3>,
  // Code and tables that are wider than the page scroll by themselves.
  pre: ({ children }) => (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by keys
    <pre tabIndex={0}>{children}</pre>
  ),
  a: ({ href = "", children }) => (
    <a className="link link-primary" href={href.replace(/^(?:\.\/)?([a-z-]+)\.md/, "/guides/$1")}>
      {children}
    </a>
  ),
};
