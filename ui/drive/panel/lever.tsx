import { clsx } from 'clsx';
import type { KeyboardEvent } from 'react';
import { toast } from 'sonner';
import {
  type ValueForm,
  type LeverMap,
  type PanelReading,
  MOST_PULSE,
  parseValueIn,
  stepped,
} from '../../../core/probes/index.ts';
import { Button, CountInput, Select, TextInput, useRemembered } from '../../shared/index.ts';
import { ByItself } from './by-itself.tsx';
import { FormSelect } from './form-select.tsx';
import { Digits, digitBitsOf, SHORT_DIGITS, show } from './digits.tsx';

/** How a lever is moved: by a value, to and fro, or as long as it is pressed. */
export type LeverKind = 'value' | 'toggle' | 'push' | 'pulse' | 'slider' | 'list';

/** Of which kinds a lever of so many bits can be; the first is what it is until somebody says otherwise. */
export const kindsFor = (width: number, hasPulse: boolean): readonly LeverKind[] => [
  'value',
  ...(width === 1 ? (['toggle', 'push'] as const) : width <= MOST_SLID ? (['slider'] as const) : []),
  'list',
  ...(hasPulse ? (['pulse'] as const) : []),
];

/** Bits of a value that a slider can still show. */
const MOST_SLID = 16;

const KIND_WORDS: Readonly<Record<LeverKind, string>> = {
  value: 'value',
  toggle: 'toggle',
  push: 'push',
  pulse: 'pulse',
  list: 'by itself',
  slider: 'slider',
};

interface Props {
  readonly lever: LeverMap;
  readonly now: PanelReading['levers'][string] | null;
  readonly radix: ValueForm;
  readonly disabled: boolean;
  /** The form that was chosen for this lever; null where it is written as all are. */
  readonly form: ValueForm | null;
  readonly onForm: (form: ValueForm | null) => void;
  /** What is typed and not set yet. */
  readonly text: string | null;
  readonly onText: (text: string | null) => void;
  readonly kind: LeverKind;
  readonly onKind: (kind: LeverKind) => void;
  /** It was told to the hardware, which has not said yet that it is there. */
  readonly isPending: boolean;
  /** Its panel can set levers for so many cycles. */
  readonly hasPulse: boolean;
  /** With `cycles`, for so many of its clock alone. */
  readonly onSet: (value: bigint | null, cycles?: number) => Promise<boolean>;
}

export function Lever(props: Props) {
  const { lever, now, radix, disabled, kind, onKind, isPending, hasPulse, form, onForm, onSet } = props;
  const shown = now?.released ? '–' : show(now?.value, lever, radix);
  const isLong = show(0n, lever, radix).length > SHORT_DIGITS || shown.length > SHORT_DIGITS;
  const overriding = lever.enable !== null && now !== null && !now.released;
  const kinds = kindsFor(lever.width, hasPulse);
  return (
    <div className="border-line border-b py-2" data-testid={`lever-${lever.name}`}>
      <div className="mb-1 flex items-baseline gap-2 text-sm">
        <span className="min-w-0 truncate" title={lever.name}>
          {lever.name.slice(lever.name.indexOf('.') + 1)}
        </span>
        <span className="tabular shrink-0 text-quiet text-xs">{lever.width} bit</span>
        <span className={clsx('ml-auto shrink-0 text-xs', overriding ? 'text-signal-deep' : 'text-quiet')}>
          {isPending
            ? 'pending'
            : lever.enable === null
              ? 'drives a free signal'
              : overriding
                ? 'overrides its driver'
                : 'released'}
        </span>
        <FormSelect signal={lever} form={form} onForm={onForm} />
        {kinds.length > 1 && (
          <Select
            size="tiny"
            className="shrink-0 text-quiet text-xs"
            aria-label={`How ${lever.name} is moved`}
            value={kind}
            onPick={onKind}
          >
            {kinds.map((one) => (
              <option key={one} value={one}>
                {KIND_WORDS[one]}
              </option>
            ))}
          </Select>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <span className={clsx('code text-lg', isLong ? 'w-full' : 'w-20 shrink-0')} data-testid="value">
          <Digits text={shown} label={lever.name} digitBits={digitBitsOf(radix)} />
        </span>
        <Handle {...props} isLong={isLong} />
        {lever.enable !== null && (
          <Button look="quiet" disabled={disabled || !overriding} onClick={() => onSet(null)}>
            Release
          </Button>
        )}
      </div>
    </div>
  );
}

function Handle({ lever, now, disabled, kind, onSet, isLong, ...rest }: Props & { readonly isLong: boolean }) {
  const value = now && !now.released ? now.value : 0n;
  switch (kind) {
    case 'toggle':
      return (
        <Button disabled={disabled} aria-pressed={value === 1n} onClick={() => onSet(value === 1n ? 0n : 1n)}>
          {value === 1n ? 'To 0' : 'To 1'}
        </Button>
      );
    case 'push':
      return (
        <Button
          disabled={disabled}
          onPointerDown={(event) => {
            // The pointer may leave the button before it is let go.
            event.currentTarget.setPointerCapture(event.pointerId);
            void onSet(1n);
          }}
          onPointerUp={() => onSet(0n)}
          onPointerCancel={() => onSet(0n)}
          onKeyDown={(event) => {
            if (event.key === ' ' && !event.repeat) void onSet(1n);
          }}
          onKeyUp={(event) => {
            if (event.key === ' ') void onSet(0n);
          }}
        >
          Hold for 1
        </Button>
      );
    case 'pulse':
      return <Pulse {...{ lever, disabled, onSet, radix: rest.radix }} />;
    case 'list':
      return <ByItself {...{ lever, disabled, onSet, radix: rest.radix }} />;
    case 'slider':
      return (
        <input
          type="range"
          className="h-8 w-48 accent-signal-deep"
          min={0}
          max={2 ** lever.width - 1}
          value={Number(value)}
          disabled={disabled}
          aria-label={`Value of ${lever.name}`}
          onChange={(event) => onSet(BigInt(event.target.value))}
        />
      );
    case 'value':
      return lever.width === 1 ? (
        <>
          <Button disabled={disabled} onClick={() => onSet(0n)}>
            Set 0
          </Button>
          <Button disabled={disabled} onClick={() => onSet(1n)}>
            Set 1
          </Button>
        </>
      ) : (
        <Typed {...{ lever, now, disabled, kind, onSet, isLong, ...rest }} />
      );
  }
}

const PULSE = { value: '1', cycles: '1' };

/** A value for so many cycles, after which all is as it was. */
function Pulse({ lever, radix, disabled, onSet }: Pick<Props, 'lever' | 'radix' | 'disabled' | 'onSet'>) {
  const [kept, setKept] = useRemembered(`drive-pulse-${lever.name}`, PULSE);
  const give = () => {
    const value = parseValueIn(kept.value, lever, radix);
    const cycles = /^\d+$/.test(kept.cycles) ? Number(kept.cycles) : 0;
    if (!value.ok) toast.error(value.error.message, { description: value.error.tryNext[0] });
    else if (cycles < 1 || cycles > MOST_PULSE)
      toast.error(`A pulse lasts 1 to ${MOST_PULSE.toLocaleString('en')} cycles, not "${kept.cycles}".`);
    else void onSet(value.value, cycles);
  };
  return (
    <form
      className="flex items-center gap-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        give();
      }}
    >
      <TextInput
        size="normal"
        isCode
        className="w-20"
        aria-label={`Pulse value for ${lever.name}`}
        value={kept.value}
        onChange={(event) => setKept({ value: event.target.value })}
      />
      <span className="text-quiet">for</span>
      <CountInput
        className="w-16"
        aria-label={`Pulse cycles for ${lever.name}`}
        value={kept.cycles}
        onText={(cycles) => setKept({ cycles })}
      />
      <Button type="submit" disabled={disabled}>
        cycles
      </Button>
    </form>
  );
}

/** A value that is typed: Enter sets it, Escape gives it back, arrows step it. */
function Typed({ lever, now, radix, disabled, text, onText, onSet, isLong }: Props & { readonly isLong: boolean }) {
  const apply = async () => {
    if (text === null) return;
    const value = parseValueIn(text, lever, radix);
    if (!value.ok) toast.error(value.error.message, { description: value.error.tryNext[0] });
    else if (await onSet(value.value)) onText(null);
  };
  const keys = (event: KeyboardEvent) => {
    if (event.key === 'Escape' && text !== null) {
      event.stopPropagation();
      onText(null);
    }
    const by = event.key === 'ArrowUp' ? 1n : event.key === 'ArrowDown' ? -1n : 0n;
    if (by === 0n) return;
    event.preventDefault();
    const typed = text === null ? null : parseValueIn(text, lever, radix);
    const from = typed?.ok ? typed.value : now && !now.released ? now.value : 0n;
    onText(show(stepped(from, event.shiftKey ? by * 16n : by, lever.width), lever, radix));
  };
  return (
    <form
      className={clsx('flex items-center gap-2', isLong && 'min-w-0 flex-1')}
      onSubmit={(event) => {
        event.preventDefault();
        void apply();
      }}
    >
      <TextInput
        size="normal"
        isCode
        className={isLong ? 'min-w-28 flex-1' : 'w-28'}
        title="As it is shown, or with 0x, 0b or 0d in front. Arrows step, Enter sets, Escape gives back."
        value={text ?? ''}
        placeholder="new value"
        aria-label={`Value for ${lever.name}`}
        onChange={(event) => onText(event.target.value)}
        onKeyDown={keys}
      />
      <Button type="submit" disabled={disabled || text === null}>
        Set
      </Button>
    </form>
  );
}
