import { html } from "@codemirror/lang-html";
import { python } from "@codemirror/lang-python";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { basicSetup } from "codemirror";
import { useRef } from "react";
import { useChange } from "./hooks/useChange";

interface Props {
  text: string;
  language: string;
  readOnly: boolean;
  wrong: { line: number; sentence: string } | null;
  onChange: (text: string) => void;
}

/**
 * A text editor. It lives in a shadow tree, where its own styles need no leave of the
 * page's Content-Security-Policy.
 */
export function Editor({ text, language, readOnly, wrong, onChange }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const changed = useRef(onChange);
  changed.current = onChange;

  // The text is the initial content; later changes come from the editor.
  useChange(`${language} ${readOnly}`, () => {
    const host = place.current;
    if (!host) return;
    const root = host.shadowRoot ?? host.attachShadow({ mode: "open" });
    root.replaceChildren();
    view.current = new EditorView({
      parent: root,
      root,
      state: EditorState.create({
        doc: text,
        extensions: [
          basicSetup,
          language === "python" ? python() : html(),
          syntaxHighlighting(INKS),
          LOOK,
          lintGutter(),
          EditorState.readOnly.of(readOnly),
          EditorState.tabSize.of(4),
          keymap.of([{ key: "Escape", run: leave }]),
          EditorView.contentAttributes.of({ "aria-label": "Code of the source" }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) changed.current(update.state.doc.toString());
          }),
        ],
      }),
    });
    // It scrolls by keyboard without moving through its text.
    view.current.scrollDOM.tabIndex = 0;
    return () => view.current?.destroy();
  });

  const line = wrong?.line ?? 0;
  const sentence = wrong?.sentence ?? "";
  useChange(`${line} ${sentence} ${language} ${readOnly}`, () => {
    const at = view.current;
    if (!at) return;
    const diagnostics: Diagnostic[] = [];
    if (line > 0) {
      const { from, to } = at.state.doc.line(Math.min(line, at.state.doc.lines));
      diagnostics.push({ from, to, severity: "error", message: sentence });
    }
    at.dispatch(setDiagnostics(at.state, diagnostics));
  });

  return <div ref={place} data-own-keys data-testid="editor" className="min-h-0 flex-1 overflow-hidden" />;
}

/** Escape gives the keys back to the Bench. */
function leave(at: EditorView): boolean {
  at.contentDOM.blur();
  return true;
}

const LOOK = EditorView.theme({
  "&": {
    height: "100%",
    fontSize: "13px",
    color: "var(--color-base-content)",
    background: "var(--color-base-100)",
  },
  ".cm-scroller": { fontFamily: "var(--font-mono)", lineHeight: "1.5" },
  ".cm-content": { caretColor: "var(--color-base-content)" },
  ".cm-cursor": { borderLeftColor: "var(--color-base-content)" },
  ".cm-gutters": { background: "var(--color-base-200)", color: "inherit", border: "none", opacity: "0.85" },
  ".cm-activeLine, .cm-activeLineGutter": {
    background: "color-mix(in oklab, var(--color-base-content) 6%, transparent)",
  },
  "&.cm-focused": { outline: "none" },
  "&.cm-focused .cm-selectionBackground, .cm-selectionBackground": {
    background: "color-mix(in oklab, var(--color-primary) 26%, transparent) !important",
  },
  ".cm-tooltip": { background: "var(--color-base-100)", border: "1px solid var(--color-base-300)" },
});

/** Few inks: words of the language, texts, numbers and remarks. */
const INKS = HighlightStyle.define([
  {
    tag: [tags.keyword, tags.tagName, tags.definitionKeyword],
    color: "var(--color-primary)",
    fontWeight: "600",
  },
  { tag: [tags.string, tags.attributeValue], color: "var(--color-warning)" },
  { tag: [tags.comment], opacity: "0.65", fontStyle: "italic" },
  { tag: [tags.function(tags.definition(tags.variableName)), tags.className], fontWeight: "600" },
]);
