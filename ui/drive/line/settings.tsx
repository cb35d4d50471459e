'use client';
import { useState } from 'react';
import { type Fit, type LineSettings, lineSettings, settingsText, USUAL_RATES } from '../../../core/serial/index.ts';
import { api, Button, Field, Select, TextInput, useAct, useBoard, useLive } from '../../shared/index.ts';

/** What is measured differs from what is set by more than a measurement does. */
const SAME_RATE = 0.03;
/** A usual rate is missed by so much that some frames will not bear it. */
const NEARLY = 0.02;
const LEAST_FRAMES = 4;
const BITS = [5, 6, 7, 8] as const;

/** How the line is spoken. A change counts at once; a speed when it is confirmed. */
export function Settings({ settings }: { readonly settings: LineSettings }) {
  const { act, busy } = useAct();
  const set = (change: Partial<LineSettings>) => void act(() => api.line.set.mutate({ ...settings, ...change }));
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-2 text-sm">
      <Rate key={settings.rate} rate={settings.rate} onRate={(rate) => set({ rate })} />
      <Field name="Data bits">
        <Select
          value={String(settings.dataBits)}
          disabled={busy}
          onPick={(bits) => set({ dataBits: BITS.find((one) => String(one) === bits) ?? 8 })}
        >
          {BITS.map((bits) => (
            <option key={bits}>{bits}</option>
          ))}
        </Select>
      </Field>
      <Field name="Parity">
        <Select value={settings.parity} disabled={busy} onPick={(parity) => set({ parity })}>
          <option>none</option>
          <option>even</option>
          <option>odd</option>
        </Select>
      </Field>
      <Field name="Stop bits">
        <Select
          value={settings.stopBits === 1 ? '1' : '2'}
          disabled={busy}
          onPick={(stop) => set({ stopBits: stop === '1' ? 1 : 2 })}
        >
          <option>1</option>
          <option>2</option>
        </Select>
      </Field>
      <Field name="Flow control">
        <Select value={settings.flow} disabled={busy} onPick={(flow) => set({ flow })}>
          <option value="none">none</option>
          <option value="rts-cts">RTS and CTS</option>
          <option value="xon-xoff">XON and XOFF</option>
        </Select>
      </Field>
      <Waiting />
    </div>
  );
}

function Rate({ rate, onRate }: { readonly rate: number; readonly onRate: (rate: number) => void }) {
  const [text, setText] = useState(String(rate));
  const wanted = Number(text.replaceAll(/[ _]/g, ''));
  const isGood = lineSettings.shape.rate.safeParse(wanted).success;
  // What was asked for once is not asked again when the field is left.
  const [asked, setAsked] = useState(rate);
  const confirm = () => {
    if (!isGood || wanted === asked) return;
    setAsked(wanted);
    onRate(wanted);
  };
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        confirm();
      }}
    >
      <Field name="Speed">
        <TextInput
          isCode
          className="w-20 text-right"
          list="usual-rates"
          inputMode="numeric"
          aria-label="Speed in bits a second"
          value={text}
          aria-invalid={!isGood}
          onChange={(event) => setText(event.target.value)}
          onBlur={confirm}
          onKeyDown={(event) => event.key === 'Escape' && setText(String(rate))}
        />
      </Field>
      <span className="text-quiet">bit/s</span>
      <datalist id="usual-rates">
        {USUAL_RATES.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
    </form>
  );
}

/** What is on its way to the board, and that the board does not take it. */
function Waiting() {
  const line = useBoard()?.line;
  const { act } = useAct();
  if (!line || line.queued === 0) return null;
  return (
    <span className="tabular flex items-center gap-2 text-quiet">
      {line.waits ? `the board asks for a pause; ${line.queued} bytes wait` : `${line.queued} bytes on their way`}
      <Button className="h-6! px-2!" onClick={() => act(() => api.line.drop.mutate())}>
        Drop them
      </Button>
    </span>
  );
}

const isNear = (rate: number, other: number, within: number): boolean => Math.abs(rate / other - 1) <= within;

/** Whether what arrives is spoken otherwise than it is heard. */
const differs = ({ settings, rate }: Fit, set: LineSettings): boolean =>
  !isNear(rate, set.rate, SAME_RATE) || settings.dataBits !== set.dataBits || settings.parity !== set.parity;

/** What the line's own bits say: the rate that was measured, and settings that fit better where there are such. */
export function Measured({ settings }: { readonly settings: LineSettings }) {
  const line = useLive('line')?.line;
  const { act, busy } = useAct();
  const fit = line?.fit ?? null;
  if (!fit || fit.frames < LEAST_FRAMES) return null;
  const take = { ...settings, ...fit.settings };
  if (differs(fit, settings))
    return (
      <p role="status" className="mb-2 flex flex-wrap items-center gap-3 border-doubt border-l-4 bg-raised px-3 py-1.5">
        <span>
          <b>{settingsText(fit.settings)} fits</b> what arrives; you are at {settingsText(settings)}.
        </span>
        <span className="text-quiet text-sm">
          A bit takes {(1e6 / fit.rate).toFixed(2)} µs; {fit.frames} frames, {fit.wrong} wrong.
        </span>
        <Button
          look="main"
          className="ml-auto h-7!"
          disabled={busy}
          onClick={() => act(() => api.line.set.mutate(take))}
        >
          Take it
        </Button>
      </p>
    );
  const off = fit.rate / settings.rate - 1;
  return (
    <p className="tabular mb-2 text-quiet text-sm" role="status">
      Measured {Math.round(fit.rate).toLocaleString('en').replaceAll(',', ' ')} bit/s
      {Math.abs(off) > NEARLY && (
        <span className="text-doubt">
          , {Math.abs(100 * off).toFixed(1)} % {off > 0 ? 'faster' : 'slower'} than set: about 5 % breaks frames
        </span>
      )}
      .
    </p>
  );
}
