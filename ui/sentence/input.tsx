'use client';
import {
  autocompletion,
  type Completion,
  type CompletionContext,
  completionKeymap,
  type CompletionResult,
} from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { Compartment, EditorState, Prec } from '@codemirror/state';
import { EditorView, keymap, placeholder as placeholderText } from '@codemirror/view';
import { clsx } from 'clsx';
import { useEffect, useRef } from 'react';

interface NamedSignal {
  readonly name: string;
  readonly width: number;
  readonly names?: Readonly<Record<string, string>> | undefined;
}

interface Props {
  readonly value: string;
  readonly label: string;
  readonly placeholder: string;
  readonly signals: readonly NamedSignal[];
  readonly onChange: (text: string) => void;
  readonly onEnter?: () => void;
  readonly wrong?: boolean;
  readonly disabled?: boolean;
}

const LOOK = EditorView.theme({
  '&': { fontSize: '0.8rem', backgroundColor: 'transparent' },
  '&.cm-focused': { outline: 'none' },
  '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '1.9', overflow: 'hidden' },
  '.cm-content': { padding: '0 6px' },
  '.cm-line': { padding: '0' },
  '.cm-placeholder': { color: 'var(--color-quiet)' },
  '.cm-tooltip': { backgroundColor: 'var(--color-raised)', border: '1px solid var(--color-line)' },
  '.cm-tooltip-autocomplete ul li[aria-selected]': { backgroundColor: 'var(--color-well)', color: 'var(--color-ink)' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--font-mono)', fontSize: '0.75rem' },
  '.cm-completionDetail': { color: 'var(--color-quiet)', fontStyle: 'normal', marginLeft: '1em' },
});

const JOINING: readonly Completion[] = ['and', 'or', 'then', 'within', 'for', 'times'].map((label) => ({
  label,
  type: 'keyword',
}));
const EDGES: readonly Completion[] = ['rises', 'falls', 'changes'].map((label) => ({ label, type: 'keyword' }));
const RELATIONS: readonly Completion[] = ['==', '!=', '<', '<=', '>', '>=', 'in'].map((label) => ({
  label,
  type: 'keyword',
}));

/** One line of text; names, values and the words that can follow are offered while it is written. */
export function SentenceInput({ value, label, placeholder, signals, onChange, onEnter, wrong, disabled }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const settings = useRef(new Compartment());
  const latest = useRef({ onChange, onEnter, signals });
  latest.current = { onChange, onEnter, signals };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once; what changes reaches it below
  useEffect(() => {
    if (!host.current) return;
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: value,
        extensions: [
          Prec.high(keymap.of([...completionKeymap])),
          keymap.of([
            {
              key: 'Enter',
              run: () => {
                latest.current.onEnter?.();
                return true;
              },
            },
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          history(),
          autocompletion({ override: [(context) => complete(context, latest.current.signals)], icons: false }),
          // A pasted text of several lines is one sentence.
          EditorState.transactionFilter.of((transaction) =>
            transaction.newDoc.lines > 1
              ? [
                  transaction,
                  {
                    changes: {
                      from: 0,
                      to: transaction.newDoc.length,
                      insert: transaction.newDoc.toString().replace(/\s*\n\s*/g, ' '),
                    },
                    sequential: true,
                  },
                ]
              : transaction,
          ),
          EditorView.updateListener.of(
            (update) => update.docChanged && latest.current.onChange(update.state.doc.toString()),
          ),
          LOOK,
          settings.current.of([]),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, []);
  useEffect(() => {
    view.current?.dispatch({
      effects: settings.current.reconfigure([
        placeholderText(placeholder),
        EditorState.readOnly.of(disabled ?? false),
        EditorView.contentAttributes.of({ 'aria-label': label, 'aria-invalid': String(wrong ?? false) }),
      ]),
    });
  }, [placeholder, disabled, label, wrong]);
  useEffect(() => {
    const editor = view.current;
    if (editor && editor.state.doc.toString() !== value)
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } });
  }, [value]);
  return (
    <div
      ref={host}
      className={clsx(
        'h-8 min-w-0 flex-1 overflow-hidden border bg-raised',
        wrong ? 'border-bad' : 'border-line',
        disabled && 'opacity-60',
      )}
    />
  );
}

/**
 * What can stand where the caret is: names where a comparison begins, values behind a relation, joining words behind a
 * whole comparison.
 */
function complete(context: CompletionContext, signals: readonly NamedSignal[]): CompletionResult | null {
  // What comes after the line was left helps nobody.
  if (context.view && !context.view.hasFocus) return null;
  const word = context.matchBefore(/[\w.$[\]]*/);
  if (!word || (word.from === word.to && !context.explicit)) return null;
  const before = context.state.sliceDoc(0, word.from).trimEnd();
  const previous = /(\S+)$/.exec(before)?.[1] ?? '';
  const relation = /(==|!=|<=|>=|<|>)$/.test(previous);
  if (relation) {
    const name = /(\S+)\s*(?:==|!=|<=|>=|<|>)$/.exec(before)?.[1] ?? '';
    const values = Object.entries(signalNamed(signals, name)?.names ?? {}).map(
      ([label, value]): Completion => ({ label, detail: value, type: 'constant' }),
    );
    return { from: word.from, options: [...values, ...nameOptions(signals)], validFor: /^[\w.$[\]]*$/ };
  }
  const named = signalNamed(signals, previous);
  if (named)
    return {
      from: word.from,
      options: [...(named.width === 1 ? EDGES : [{ label: 'changes', type: 'keyword' }]), ...RELATIONS, ...JOINING],
      validFor: /^\w*$/,
    };
  const begins =
    previous === '' || /^(and|or|not|then|whenever|\(|!|,|&&|\|\|)$/.test(previous) || /[(!,]$/.test(previous);
  return begins
    ? {
        from: word.from,
        options: [...nameOptions(signals), { label: 'not', type: 'keyword' }],
        validFor: /^[\w.$[\]]*$/,
      }
    : { from: word.from, options: [...JOINING], validFor: /^\w*$/ };
}

const signalNamed = (signals: readonly NamedSignal[], name: string) =>
  signals.find((signal) => signal.name === name || signal.name.endsWith(`.${name}`));

/** The shortest end of each path that means one signal alone. */
function nameOptions(signals: readonly NamedSignal[]): Completion[] {
  return signals.map(({ name, width }) => {
    const path = name.split('.');
    let label = name;
    for (let from = path.length - 1; from >= 0; from--) {
      const end = path.slice(from).join('.');
      if (signals.filter((other) => other.name === end || other.name.endsWith(`.${end}`)).length === 1) {
        label = end;
        break;
      }
    }
    return { label, detail: `${width} ${width === 1 ? 'bit' : 'bits'}`, type: 'variable' };
  });
}
