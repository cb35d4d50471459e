import { X } from 'lucide-react';
import { useState } from 'react';
import type { LeverMap, PanelReading } from '../../../core/probes/index.ts';
import { Button, IconButton, TextInput, useRemembered } from '../../shared/index.ts';

/** Values by lever, decimal; null for one that is released. */
type Preset = Readonly<Record<string, string | null>>;
const NONE: { readonly kept: Readonly<Record<string, Preset>> } = { kept: {} };

interface Props {
  readonly levers: readonly LeverMap[];
  readonly reading: PanelReading | null;
  readonly disabled: boolean;
  readonly onSet: (changes: Readonly<Record<string, bigint | null>>) => Promise<boolean>;
}

/** Values of all levers by name: kept as they stand, set again in one go. */
export function Presets({ levers, reading, disabled, onSet }: Props) {
  const [{ kept }, setKept] = useRemembered('drive-presets', NONE);
  const [name, setName] = useState('');
  const known = new Set(levers.map((lever) => lever.name));
  // A preset of another design names levers that are not there.
  const usable = Object.entries(kept).filter(([, preset]) => Object.keys(preset).some((lever) => known.has(lever)));
  const keep = () => {
    const now: Record<string, string | null> = {};
    for (const lever of levers) {
      const stands = reading?.levers[lever.name];
      if (stands) now[lever.name] = stands.released ? null : String(stands.value);
    }
    setKept({ kept: { ...kept, [name.trim()]: now } });
    setName('');
  };
  const set = (preset: Preset) =>
    onSet(
      Object.fromEntries(
        Object.entries(preset).flatMap(([lever, value]) =>
          known.has(lever) ? [[lever, value === null ? null : BigInt(value)]] : [],
        ),
      ),
    );
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2 text-sm">
      <span className="text-quiet">Presets</span>
      {usable.map(([one, preset]) => (
        <span key={one} className="flex items-center">
          <Button className="h-7" disabled={disabled} onClick={() => set(preset)}>
            {one}
          </Button>
          <IconButton
            isRemoval
            label={`Remove the preset ${one}`}
            onClick={() =>
              setKept({ kept: Object.fromEntries(Object.entries(kept).filter(([other]) => other !== one)) })
            }
          >
            <X className="size-3.5" />
          </IconButton>
        </span>
      ))}
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          keep();
        }}
      >
        <TextInput
          className="w-28"
          aria-label="Name of the preset"
          placeholder="as they stand"
          maxLength={40}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" look="quiet" className="h-7 px-0!" disabled={reading === null || name.trim() === ''}>
          Keep
        </Button>
      </form>
    </div>
  );
}
