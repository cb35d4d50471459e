'use client';
import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands';
import {
  bracketMatching,
  HighlightStyle,
  indentOnInput,
  StreamLanguage,
  syntaxHighlighting,
} from '@codemirror/language';
import { json } from '@codemirror/legacy-modes/mode/javascript';
import { verilog } from '@codemirror/legacy-modes/mode/verilog';
import { type Diagnostic, lintGutter, setDiagnostics } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { useEffect, useRef } from 'react';
import type { Message } from '../../../core/hdl/index.ts';

interface Props {
  readonly name: string;
  readonly text: string;
  readonly messages: readonly Message[];
  /** A place to show; a new object moves there again. */
  readonly goTo: { readonly line: number; readonly column: number } | null;
  readonly onChange: (text: string) => void;
  /** Told the name the caret stands in, empty elsewhere. */
  readonly onCaret?: (name: string) => void;
}

const LOOK = EditorView.theme({
  '&': { backgroundColor: 'var(--color-raised)', color: 'var(--color-ink)' },
  '.cm-content, .cm-gutters': { fontFamily: 'var(--font-mono)' },
  '.cm-gutters': { backgroundColor: 'var(--color-well)', color: 'var(--color-quiet)', border: 'none' },
  '.cm-activeLine': { backgroundColor: 'color-mix(in oklab, var(--color-signal) 5%, transparent)' },
  '&.cm-focused': { outline: 'none' },
});

const COLOURS = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--color-ink)', fontWeight: 'bold' },
  { tag: tags.comment, color: 'var(--color-quiet)', fontStyle: 'italic' },
  { tag: tags.number, color: 'var(--color-signal-deep)' },
  { tag: tags.string, color: 'var(--color-good)' },
  { tag: tags.meta, color: 'var(--color-doubt)' },
]);

/** The name the caret stands in, empty elsewhere. */
function wordAt({ doc, selection }: EditorState): string {
  const { from, text } = doc.lineAt(selection.main.head);
  const at = selection.main.head - from;
  return `${/[A-Za-z_$][\w$]*$/.exec(text.slice(0, at))?.[0] ?? ''}${/^[\w$]*/.exec(text.slice(at))?.[0] ?? ''}`;
}

/** One source file. Remounted for another file; text flows out through `onChange`. */
export function Editor({ name, text, messages, goTo, onChange, onCaret }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const changed = useRef(onChange);
  changed.current = onChange;
  const caret = useRef(onCaret);
  caret.current = onCaret;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the text is the editor's own once it is open
  useEffect(() => {
    if (!host.current) return;
    const language = /\.s?vh?$/.test(name)
      ? [StreamLanguage.define(verilog)]
      : name.endsWith('.json')
        ? [StreamLanguage.define(json)]
        : [];
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: text,
        extensions: [
          lineNumbers(),
          history(),
          drawSelection(),
          indentOnInput(),
          bracketMatching(),
          highlightActiveLine(),
          lintGutter(),
          keymap.of([...defaultKeymap, ...historyKeymap, indentWithTab]),
          ...language,
          syntaxHighlighting(COLOURS),
          LOOK,
          EditorView.contentAttributes.of({ 'aria-label': `Source ${name}`, tabindex: '0' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) changed.current(update.state.doc.toString());
            if (update.selectionSet) caret.current?.(wordAt(update.state));
          }),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, [name]);
  useEffect(() => {
    const open = view.current;
    if (!open) return;
    const { doc } = open.state;
    const diagnostics = messages
      .filter((m) => m.file === name && m.line <= doc.lines)
      .map((m): Diagnostic => {
        const line = doc.line(m.line);
        const from = Math.min(line.to, line.from + m.column - 1);
        return {
          from,
          to: Math.min(line.to, from + (/^\w+/.exec(doc.sliceString(from, line.to))?.[0].length ?? 1)),
          severity: m.severity === 'serious' ? 'warning' : m.severity,
          message: m.message,
        };
      });
    open.dispatch(setDiagnostics(open.state, diagnostics));
  }, [messages, name]);
  useEffect(() => {
    const open = view.current;
    if (!open || !goTo || goTo.line > open.state.doc.lines) return;
    const line = open.state.doc.line(goTo.line);
    const at = Math.min(line.to, line.from + goTo.column - 1);
    open.dispatch({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: 'center' }) });
    open.focus();
  }, [goTo]);
  return <div ref={host} className="h-full min-h-0 overflow-hidden border border-line" data-testid="editor" />;
}
