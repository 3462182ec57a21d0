/** The guides, by name, in the order in which a new user wants them; their texts come when they are opened. */
const TEXTS = import.meta.glob<string>(["../../../../docs/guides/*.md", "../../../../docs/GLOSSARY.md"], {
  query: "?raw",
  import: "default",
});

export const GUIDES = [
  { name: "first-model", title: "Use your own model or mesh" },
  { name: "sources", title: "Every kind of source" },
  { name: "time", title: "The clock and the lanes" },
  { name: "camera", title: "The camera" },
  { name: "dispatch", title: "Files for every place" },
  { name: "review", title: "Review: look before you approve" },
  { name: "review", title: "Review: look before you approve" },
  { name: "reel", title: "The reel: takes become a piece" },
  { name: "findings", title: "Findings" },
  { name: "commands", title: "The command line" },
  { name: "glossary", title: "Glossary" },
];

export function guideText(name: string): Promise<string> {
  const file = name === "glossary" ? "GLOSSARY" : `guides/${name}`;
  const text = TEXTS[`../../../../docs/${file}.md`];
  return text ? text() : Promise.reject(new Error(`There is no guide ${name}.`));
}

/** The name under which a heading is linked to. */
export const anchorOf = (heading: string) =>
  heading
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "");
