import { Switch } from 'radix-ui';
import { Fragment } from 'react';
import type { BoardPart, BoardView } from '../../core/board/index.ts';
import { frequency, useAct, api, usePortsOnPins } from '../shared/index.ts';
import { Digits } from './digits.tsx';
import { Lamp } from './lamp.tsx';
import { Port, type Ported, Ports } from './port.tsx';
import { Scene } from './scene.tsx';
import { Dial, Keyboard, TextDisplay } from './talking.tsx';

type Of<K extends BoardPart['kind']> = Extract<BoardPart, { kind: K }>;

/** Lamps that stand at the top of the board, as the cable and the FPGA say them. */
const SAID_OTHERWISE = new Set(['power', 'done']);

/** The parts of a board by kind, each kind in a row of its own. */
export function Parts({ view, speed }: { readonly view: BoardView; readonly speed: number | null }) {
  const of = <K extends BoardPart['kind']>(kind: K) => view.parts.filter((part): part is Of<K> => part.kind === kind);
  const buttons = of('button');
  const reset = buttons.find(({ label }) => label === 'reset');
  const ports = usePortsOnPins();
  const portOf = (pin: string | null) => (pin === null ? undefined : ports.get(pin));
  return (
    <>
      {of('digits').map(({ name, rows, pins }) => (
        <Fragment key={name}>
          <Digits digits={rows} />
          <Ports pins={pins} ports={ports} />
        </Fragment>
      ))}
      {of('scene').map((scene) => (
        <Scene key={scene.name} {...scene} />
      ))}
      <div className="mt-2 grid grid-cols-4 gap-x-1 gap-y-1">
        {of('lamp')
          .filter(({ name }) => !SAID_OTHERWISE.has(name))
          .map(({ name, label, level, hertz, pin }) => (
            <Lamp key={name} {...{ label, level, hertz }} port={portOf(pin)} tone="signal" testId={`lamp-${name}`} />
          ))}
      </div>
      <div className="mt-2 grid grid-cols-4 gap-1">
        {buttons.map((button) => (
          <PushButton key={button.name} {...button} port={portOf(button.pin)} />
        ))}
      </div>
      <div className="mt-2 grid grid-cols-4 gap-1">
        {of('switch').map((one) => (
          <Toggle key={one.name} {...one} port={portOf(one.pin)} />
        ))}
      </div>
      {of('text').map((one) => (
        <Fragment key={one.name}>
          <TextDisplay {...one} />
          <Ports pins={one.pins} ports={ports} />
        </Fragment>
      ))}
      {of('keyboard').map((one) => (
        <Fragment key={one.name}>
          <Keyboard {...one} />
          <Ports pins={one.pins} ports={ports} />
        </Fragment>
      ))}
      {of('dial').map((one) => (
        <Fragment key={one.name}>
          <Dial {...one} />
          <Ports pins={one.pins} ports={ports} />
        </Fragment>
      ))}
      {reset && (
        <p className="mt-3 text-quiet text-xs">
          Button {reset.label} ({reset.name}) only starts the design’s registers anew. Reconfigure empties the FPGA and
          reads the flash again: what was loaded and not kept is gone.
        </p>
      )}
      <p className="tabular mt-2 text-quiet text-xs">
        {of('oscillator')
          .map(({ name, hz, pin }) => `${name} ${frequency(hz)}${ports.has(pin) ? ` ${ports.get(pin)}` : ''}`)
          .join(' · ')}
        {speed !== null && (
          <>
            <br />
            <span data-testid="board-speed">
              {speed > 0.98 ? 'in real time' : `at ${Math.round(speed * 100)} % of real time`}
            </span>
          </>
        )}
      </p>
    </>
  );
}

/** Moves a control of the board; what it does is seen on the board. */
function useOperate(): (control: string, on: boolean) => void {
  const { act } = useAct();
  return (control, on) => void act(() => api.bench.operate.mutate({ control, on }));
}

const isPress = (key: string): boolean => key === ' ' || key === 'Enter';

/** Down while it is held, by pointer or key. */
function PushButton({ name, label, down, port }: Of<'button'> & Ported) {
  const operate = useOperate();
  return (
    <button
      type="button"
      aria-label={`Button ${name}, ${label}`}
      aria-pressed={down}
      className="flex flex-col items-center gap-1 text-xs"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        operate(name, true);
      }}
      onPointerUp={() => operate(name, false)}
      onPointerCancel={() => operate(name, false)}
      onKeyDown={(event) => isPress(event.key) && !event.repeat && operate(name, true)}
      onKeyUp={(event) => isPress(event.key) && operate(name, false)}
    >
      <span
        className={`block size-8 rounded-full border-2 border-quiet ${down ? 'translate-y-px bg-quiet' : 'bg-raised shadow'}`}
      />
      <span className="leading-tight">{label}</span>
      <Port port={port} />
    </button>
  );
}

function Toggle({ name, label, on, port }: Of<'switch'> & Ported) {
  const operate = useOperate();
  return (
    <Switch.Root
      checked={on}
      aria-label={`Switch ${name}, ${label}`}
      className="flex flex-col items-center gap-1 text-xs"
      onCheckedChange={(next) => operate(name, next)}
    >
      <span className="flex h-9 w-4 flex-col rounded-[3px] border border-quiet bg-raised p-0.5">
        <Switch.Thumb className={`block h-3.5 w-full rounded-[2px] ${on ? 'bg-signal' : 'mt-auto bg-quiet'}`} />
      </span>
      <span className="leading-tight">{label}</span>
      <Port port={port} />
    </Switch.Root>
  );
}
