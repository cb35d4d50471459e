'use client';
import { type Dispatch, type RefObject, type SetStateAction, useEffect, useMemo, useRef, useState } from 'react';
import { familyOf } from '../../../core/families/index.ts';
import type { Problem } from '../../../core/result.ts';
import type { PinsNow, WorkState } from '../../../server/index.ts';
import {
  Button,
  DataTable,
  Empty,
  ProblemNote,
  useAct,
  useLive,
  answerOf,
  api,
  Select,
  Field,
} from '../../shared/index.ts';
import { LevelPicture } from './level-picture.tsx';
import type { FoundDevice } from '../../../core/jtag/index.ts';
import type { PinLevel } from '../../../core/boundary/index.ts';

const LOOK_MILLISECONDS = 400;

/** Looks at the pins again and again while it is wanted; counts the changes of each pin, by place and pin. */
function useLook() {
  const [watching, setWatching] = useState(false);
  const [now, setNow] = useState<PinsNow | null>(null);
  const [trouble, setTrouble] = useState<Problem | null>(null);
  const changed = useRef(new Map<string, number>());
  const take = (next: PinsNow) => {
    setNow((old) => {
      const before = new Map(old?.levels.map((one) => [`${one.place}.${one.pin}`, one.level]));
      for (const one of next.levels) {
        const key = `${one.place}.${one.pin}`;
        if (before.has(key) && before.get(key) !== one.level)
          changed.current.set(key, (changed.current.get(key) ?? 0) + 1);
      }
      return next;
    });
  };
  const takeRef = useRef(take);
  takeRef.current = take;
  useEffect(() => {
    if (!watching) return;
    let gone = false;
    let timer: ReturnType<typeof setTimeout>;
    const look = async () => {
      const answer = await answerOf(api.bench.lookAtPins.query());
      if (gone) return;
      if (answer.ok) {
        setTrouble(null);
        takeRef.current(answer.value);
        timer = setTimeout(look, LOOK_MILLISECONDS);
      } else {
        setTrouble(answer.problem);
        setWatching(false);
      }
    };
    void look();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [watching]);
  return { watching, setWatching, now, take, trouble, changed };
}

/** Levels of all pins, looked at again and again; pins of one device can be driven instead. */
export function PinsView() {
  const state = useLive('scan', 'running', 'pod');
  const { busy, act } = useAct();
  const devices = state?.scan?.devices ?? [];
  const fpga = devices.find((device) => device.index === state?.running?.device) ?? devices[0];
  const [place, setPlace] = useState<number | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const { watching, setWatching, now, take, trouble, changed } = useLook();
  const shown = place ?? fpga?.index ?? 0;
  const part = devices[shown]?.part ?? null;
  const measured = now?.packages[shown] ?? null;
  const drawing = useMemo(() => {
    const family = part === null ? undefined : familyOf(part);
    const [usual] = family && part !== null ? family.packagesOf(part) : [];
    const packageName = measured ?? usual;
    return family && packageName ? family.drawing(packageName) : null;
  }, [part, measured]);
  if (devices.length === 0) return <Empty>The chain has not been scanned. Press Scan.</Empty>;
  const drive = async (level: 0 | 1 | null) => {
    if (chosen === null) return;
    const answer = await act(() => api.bench.drivePin.mutate({ place: shown, pin: chosen, level }));
    if (answer) take(answer);
  };
  const release = async () => {
    const answer = await act(() => api.bench.releasePins.mutate());
    if (answer) take(answer);
  };
  const driven = now?.driven ?? {};
  const taken = Object.keys(driven);
  const levels = (now?.levels ?? []).filter((one) => one.place === shown);
  const target = levels.find((one) => one.pin === chosen) ?? null;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <LookTools
        watching={watching}
        state={state}
        changed={changed}
        setWatching={setWatching}
        shown={shown}
        setPlace={setPlace}
        setChosen={setChosen}
        devices={devices}
        taken={taken}
        now={now}
        release={release}
      />
      {trouble && <ProblemNote problem={trouble} />}
      {now?.ended && (
        <p className="mb-2 text-doubt text-sm">Another operation used the chain: driven pins were released.</p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-2 gap-4 max-lg:grid-cols-1">
        <div className="flex min-h-0 flex-col">
          {drawing ? (
            <LevelPicture drawing={drawing} levels={levels} driven={driven} chosen={chosen} onChoose={setChosen} />
          ) : (
            <Empty>There is no drawing of this device.</Empty>
          )}
          <ChosenPin
            chosen={chosen}
            target={target}
            driven={driven}
            shown={shown}
            busy={busy}
            drive={drive}
            taken={taken}
            levels={levels}
          />
        </div>
        <LevelTable levels={levels} driven={driven} changed={changed} now={now} setChosen={setChosen} chosen={chosen} />
      </div>
    </div>
  );
}

interface LevelTableProps {
  readonly levels: PinLevel[];
  readonly driven: Readonly<Record<string, 0 | 1>>;
  readonly changed: RefObject<Map<string, number>>;
  readonly now: PinsNow | null;
  readonly setChosen: Dispatch<SetStateAction<string | null>>;
  readonly chosen: string | null;
}

function LevelTable({ levels, driven, changed, now, setChosen, chosen }: LevelTableProps) {
  return (
    <DataTable
      name="pins"
      className="min-h-0"
      rows={levels.map((one) => ({
        pin: one.pin,
        level: one.level === null ? '' : String(one.level),
        by: driven[`${one.place}.${one.pin}`] !== undefined ? 'from here' : one.driven ? 'the device' : 'outside',
        changes: changed.current.get(`${one.place}.${one.pin}`) ?? 0,
        port: now?.names[`${one.place}.${one.pin}`] ?? one.port,
      }))}
      empty={now ? 'This device has no boundary description.' : 'Not looked at yet.'}
      onRow={(row) => setChosen(row.pin)}
      chosen={(row) => row.pin === chosen}
      columns={[
        {
          accessorKey: 'pin',
          header: 'Pin',
          cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
        },
        {
          accessorKey: 'level',
          header: 'Level',
          cell: (cell) => <b className="tabular">{String(cell.getValue())}</b>,
        },
        { accessorKey: 'by', header: 'Driven by' },
        {
          accessorKey: 'changes',
          header: 'Changes seen',
          cell: (cell) => (
            <span className={`tabular ${Number(cell.getValue()) > 0 ? 'font-bold text-signal-deep' : 'text-quiet'}`}>
              {String(cell.getValue())}
            </span>
          ),
        },
        {
          accessorKey: 'port',
          header: 'Name',
          cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
        },
      ]}
    />
  );
}

interface ChosenPinProps {
  readonly chosen: string | null;
  readonly target: PinLevel | null;
  readonly driven: Readonly<Record<string, 0 | 1>>;
  readonly shown: number;
  readonly busy: boolean;
  readonly drive: (level: 0 | 1 | null) => Promise<void>;
  readonly taken: string[];
  readonly levels: PinLevel[];
}

function ChosenPin({ chosen, target, driven, shown, busy, drive, taken, levels }: ChosenPinProps) {
  return (
    <div className="min-h-20 shrink-0 border-line border-t pt-1 text-sm" aria-live="polite">
      {chosen === null ? (
        <p className="text-quiet">Press a pin to choose it. A filled pin is 1, a hollow one 0.</p>
      ) : (
        <>
          <p>
            <b className="code">{chosen}</b>{' '}
            {target
              ? 'reads ' +
                `${target.level ?? 'nothing'}` +
                `${driven[`${shown}.${chosen}`] !== undefined ? ', driven from here' : target.driven ? ', driven by the device' : ''}`
              : ''}
          </p>
          <p className="mt-1 flex flex-wrap items-center gap-2">
            <Button disabled={busy} onClick={() => drive(1)}>
              Drive 1
            </Button>
            <Button disabled={busy} onClick={() => drive(0)}>
              Drive 0
            </Button>
            <Button disabled={busy || driven[`${shown}.${chosen}`] === undefined} onClick={() => drive(null)}>
              Let go
            </Button>
            <span className="text-quiet text-xs">
              {taken.length === 0
                ? `Takes over all ${levels.length} pins of this device: the others go to their safe value, off.`
                : ''}
            </span>
          </p>
        </>
      )}
    </div>
  );
}

interface LookToolsProps {
  readonly watching: boolean;
  readonly state: Pick<WorkState, 'pod' | 'scan' | 'running'> | null;
  readonly changed: RefObject<Map<string, number>>;
  readonly setWatching: Dispatch<SetStateAction<boolean>>;
  readonly shown: number;
  readonly setPlace: Dispatch<SetStateAction<number | null>>;
  readonly setChosen: Dispatch<SetStateAction<string | null>>;
  readonly devices: readonly FoundDevice[];
  readonly taken: string[];
  readonly now: PinsNow | null;
  readonly release: () => Promise<void>;
}

function LookTools({
  watching,
  state,
  changed,
  setWatching,
  shown,
  setPlace,
  setChosen,
  devices,
  taken,
  now,
  release,
}: LookToolsProps) {
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
      <Button
        look={watching ? 'plain' : 'main'}
        disabled={state?.pod.state !== 'connected'}
        onClick={() => {
          if (!watching) changed.current.clear();
          setWatching(!watching);
        }}
      >
        {watching ? 'Stop looking' : 'Look at the pins'}
      </Button>
      <Field name="Device">
        <Select
          size="normal"
          aria-label="Device"
          value={shown}
          onChange={(event) => {
            setPlace(Number(event.target.value));
            setChosen(null);
          }}
        >
          {devices.map((device) => (
            <option key={device.index} value={device.index}>
              place {device.index}, {device.part ?? 'unknown'}
            </option>
          ))}
        </Select>
      </Field>
      <span className="text-quiet" data-testid="pins-how">
        {taken.length > 0 ? (
          <b className="text-bad">
            EXTEST: the pins of place {taken[0]?.split('.')[0]} are driven from here, not by its design
          </b>
        ) : now ? (
          'SAMPLE: the design runs undisturbed'
        ) : (
          ''
        )}
      </span>
      {taken.length > 0 && (
        <Button className="ml-auto" onClick={release}>
          Release all pins
        </Button>
      )}
    </div>
  );
}
