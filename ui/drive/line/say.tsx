'use client';
import { useEffect, useState } from 'react';
import { base64FromBytes } from '../../../core/bits/index.ts';
import { bytesOfHex, LINE_ENDS } from '../../../core/serial/index.ts';
import {
  api,
  Button,
  Checkbox,
  CountInput,
  Field,
  FileButton,
  IconButton,
  Select,
  TextButton,
  TextInput,
  upload,
  useAct,
  useRemembered,
} from '../../shared/index.ts';

interface Kept {
  readonly text: string;
  readonly isHex: boolean;
  readonly end: keyof typeof LINE_ENDS;
  /** Milliseconds, as they were written. */
  readonly every: string;
  readonly phrases: readonly string[];
}

const KEPT: Kept = { text: '', isHex: false, end: 'lf', every: '500', phrases: [] };
const BREAK_MILLISECONDS = 250;
const SHORTEST_REPEAT = 20;
const WAIT = { text: '', seconds: '10' };

/** What is sent: a line, bytes, a file, a phrase that is kept; once or again and again. */
export function Say() {
  const [kept, setKept] = useRemembered('line-say', KEPT);
  const [repeats, setRepeats] = useState(false);
  const { act } = useAct();
  const bytes = kept.isHex ? bytesOfHex(kept.text) : new TextEncoder().encode(kept.text + LINE_ENDS[kept.end]);
  const every = /^\d{1,6}$/.test(kept.every) && Number(kept.every) >= SHORTEST_REPEAT ? Number(kept.every) : null;
  const say = async (what: Uint8Array) => {
    const done = await act(() => api.line.say.mutate({ bytes: base64FromBytes(what) }));
    if (!done) setRepeats(false);
  };
  const text = bytes === null ? null : base64FromBytes(bytes);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the way of sending is always the same
  useEffect(() => {
    if (!repeats || text === null || every === null) return;
    // What fails once is not tried again twenty times a second.
    const again = async () => (await act(() => api.line.say.mutate({ bytes: text }))) ?? setRepeats(false);
    const timer = setInterval(() => void again(), every);
    return () => clearInterval(timer);
  }, [repeats, text, every]);
  return (
    <div className="mt-2 flex flex-col gap-2 text-sm">
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (bytes && bytes.length > 0) void say(bytes);
        }}
      >
        <TextInput
          size="normal"
          isCode
          className="min-w-40 flex-1"
          aria-label="What is sent"
          placeholder={kept.isHex ? 'bytes, as 48 65 6C 6C 6F' : 'a line for the board'}
          value={kept.text}
          aria-invalid={bytes === null}
          onChange={(event) => setKept({ text: event.target.value })}
        />
        <Checkbox checked={kept.isHex} onChange={(event) => setKept({ isHex: event.target.checked })}>
          bytes
        </Checkbox>
        <Field name="end">
          <Select value={kept.end} disabled={kept.isHex} onPick={(end) => setKept({ end })}>
            <option value="none">none</option>
            <option value="lf">LF</option>
            <option value="cr">CR</option>
            <option value="cr-lf">CR LF</option>
          </Select>
        </Field>
        <Button type="submit" look="main" disabled={bytes === null || bytes.length === 0}>
          Send
        </Button>
        <Button
          aria-pressed={repeats}
          disabled={!repeats && (bytes === null || bytes.length === 0 || every === null)}
          onClick={() => setRepeats(!repeats)}
        >
          {repeats ? 'Stop' : 'Send every'}
        </Button>
        <CountInput
          className="w-16"
          aria-label="Milliseconds between two"
          value={kept.every}
          aria-invalid={every === null}
          onText={(next) => setKept({ every: next })}
        />
        <span className="text-quiet">ms</span>
        <FileButton
          label="File to send"
          look="plain"
          onFile={(file) => void act(() => upload('/api/line-file', file))}
          title="As it is, up to 16 MiB"
        >
          File…
        </FileButton>
        <Button
          title={`The line is held at 0 for ${BREAK_MILLISECONDS} ms`}
          onClick={() => void act(() => api.line.holdLow.mutate({ milliseconds: BREAK_MILLISECONDS }))}
        >
          Break
        </Button>
      </form>
      <div className="flex flex-wrap items-center gap-2">
        <span className="text-quiet">Phrases</span>
        {kept.phrases.map((phrase) => (
          <span key={phrase} className="flex items-center border border-line bg-raised pl-2">
            <TextButton
              className="code max-w-48 truncate text-xs"
              title="Send it"
              onClick={() => void say(new TextEncoder().encode(phrase + LINE_ENDS[kept.end]))}
            >
              {phrase}
            </TextButton>
            <IconButton
              label={`Forget ${phrase}`}
              isRemoval
              onClick={() => setKept({ phrases: kept.phrases.filter((one) => one !== phrase) })}
            >
              ×
            </IconButton>
          </span>
        ))}
        <Button
          className="h-7!"
          disabled={kept.isHex || kept.text === '' || kept.phrases.includes(kept.text)}
          onClick={() => setKept({ phrases: [...kept.phrases, kept.text] })}
        >
          Keep what is written
        </Button>
        <WaitFor />
      </div>
    </div>
  );
}

/** Waits until a text comes; how it ended stands among the jobs and in the logbook. */
function WaitFor() {
  const [wait, setWait] = useRemembered('line-wait', WAIT);
  const { act } = useAct();
  const seconds = Number(wait.seconds);
  const isGood = seconds > 0 && seconds <= 3600;
  return (
    <form
      className="ml-auto flex items-center gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (isGood && wait.text !== '') void act(() => api.line.waitFor.mutate({ text: wait.text, seconds }));
      }}
    >
      <TextInput
        isCode
        className="w-36"
        aria-label="Text to wait for"
        placeholder="text to wait for"
        value={wait.text}
        onChange={(event) => setWait({ text: event.target.value })}
      />
      <span className="text-quiet">within</span>
      <CountInput
        className="h-7! w-12"
        aria-label="Seconds to wait"
        value={wait.seconds}
        aria-invalid={!isGood}
        onText={(next) => setWait({ seconds: next })}
      />
      <span className="text-quiet">s</span>
      <Button type="submit" className="h-7!" disabled={wait.text === '' || !isGood}>
        Wait
      </Button>
    </form>
  );
}
