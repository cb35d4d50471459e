'use client';
import { Download, FilePlus2, FileUp, Trash2 } from 'lucide-react';
import { type Dispatch, type SetStateAction, useState } from 'react';
import { toast } from 'sonner';
import type { SignalInfo } from '../../core/build/index.ts';
import { emptyPlan, missingNames, type PlanShelf, readPlanFile, writePlanFile } from '../../core/probes/index.ts';
import { Button, FileButton, TextInput, Select, Checkbox } from '../shared/index.ts';
import { addedPlan } from './plan-edit.ts';
import type { ProbePlan } from '../../core/probes/index.ts';

interface Props {
  readonly shelf: PlanShelf;
  readonly chosen: number;
  readonly known: ReadonlyMap<string, SignalInfo>;
  readonly onChoose: (at: number) => void;
  readonly onShelf: (shelf: PlanShelf) => void;
}

/** The plans of the project: one is shown, any number can be in the build, the others rest. */
export function Shelf({ shelf, chosen, known, onChoose, onShelf }: Props) {
  const [renaming, setRenaming] = useState(false);
  const current = shelf[chosen];
  const rename = (name: string) => {
    setRenaming(false);
    if (name.trim() !== '')
      onShelf(shelf.map((one, i) => (i === chosen ? { ...one, name: name.trim().slice(0, 60) } : one)));
  };
  const take = async (file: File) => {
    const read = readPlanFile(await file.text(), file.name);
    if (!read.ok) return void toast.error(read.error.message, { description: read.error.tryNext[0] });
    onShelf(addedPlan(shelf, read.value.name, read.value.plan, false));
    onChoose(shelf.length);
    const missing = missingNames(read.value.plan, new Set(known.keys()));
    if (missing.length > 0)
      toast.warning(
        `${missing.length} ${missing.length === 1 ? 'name does' : 'names do'} not exist in this design; they are ` +
          'struck out in the plan.',
        { description: missing.slice(0, 8).join(', ') },
      );
    else toast.success(`Plan ${read.value.name} is on the shelf.`);
  };
  const write = () => {
    if (!current) return;
    const link = document.createElement('a');
    link.href = URL.createObjectURL(
      new Blob([writePlanFile(current.name, current.plan)], { type: 'application/json' }),
    );
    link.download = `${current.name.replace(/[^\w.-]+/g, '-')}.probes.json`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <div className="flex items-center gap-1.5 text-sm">
      <span className="text-quiet">Plan</span>
      {renaming && current ? (
        <TextInput
          size="normal"
          className="w-32"
          autoFocus
          aria-label="Name of the plan"
          defaultValue={current.name}
          onBlur={(event) => rename(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        />
      ) : (
        <WhichPlan chosen={chosen} onChoose={onChoose} setRenaming={setRenaming} shelf={shelf} />
      )}
      {current && <InBuild current={current} onShelf={onShelf} shelf={shelf} chosen={chosen} />}
      <NewPlan onShelf={onShelf} shelf={shelf} onChoose={onChoose} setRenaming={setRenaming} />
      <FileButton
        label="Plan file"
        accept=".json"
        className="px-1!"
        title="Import a plan, also from another design"
        onFile={(file) => void take(file)}
      >
        <FileUp aria-hidden className="size-4" />
        <span className="sr-only">Import plan</span>
      </FileButton>
      {current && (
        <ShelfTools
          write={write}
          current={current}
          shelf={shelf}
          onShelf={onShelf}
          chosen={chosen}
          onChoose={onChoose}
        />
      )}
    </div>
  );
}

interface ShelfToolsProps {
  readonly write: () => void;
  readonly current: { name: string; inBuild: boolean; plan: ProbePlan };
  readonly shelf: PlanShelf;
  readonly onShelf: (shelf: PlanShelf) => void;
  readonly chosen: number;
  readonly onChoose: (at: number) => void;
}

function ShelfTools({ write, current, shelf, onShelf, chosen, onChoose }: ShelfToolsProps) {
  return (
    <>
      <Button look="quiet" className="px-1!" aria-label="Export plan" title="Export as .probes.json" onClick={write}>
        <Download aria-hidden className="size-4" />
      </Button>
      <Button
        look="quiet"
        className="px-1!"
        aria-label="Delete plan"
        title={`Delete the plan ${current.name}`}
        onClick={() => {
          const old = shelf;
          onShelf(shelf.filter((_, i) => i !== chosen));
          onChoose(0);
          toast(`Plan ${current.name} is deleted.`, { action: { label: 'Undo', onClick: () => onShelf(old) } });
        }}
      >
        <Trash2 aria-hidden className="size-4" />
      </Button>
    </>
  );
}

interface NewPlanProps {
  readonly onShelf: (shelf: PlanShelf) => void;
  readonly shelf: PlanShelf;
  readonly onChoose: (at: number) => void;
  readonly setRenaming: Dispatch<SetStateAction<boolean>>;
}

function NewPlan({ onShelf, shelf, onChoose, setRenaming }: NewPlanProps) {
  return (
    <Button
      look="quiet"
      className="px-1!"
      aria-label="New plan"
      title="New plan"
      onClick={() => {
        onShelf(addedPlan(shelf, 'plan', emptyPlan, true));
        onChoose(shelf.length);
        setRenaming(true);
      }}
    >
      <FilePlus2 aria-hidden className="size-4" />
    </Button>
  );
}

interface InBuildProps {
  readonly current: { name: string; inBuild: boolean; plan: ProbePlan };
  readonly onShelf: (shelf: PlanShelf) => void;
  readonly shelf: PlanShelf;
  readonly chosen: number;
}

function InBuild({ current, onShelf, shelf, chosen }: InBuildProps) {
  return (
    <label
      className="flex items-center gap-1 whitespace-nowrap"
      title="Plans that are not in the build rest on the shelf; nothing of them is lost"
    >
      <Checkbox
        checked={current.inBuild}
        onChange={(event) =>
          onShelf(shelf.map((one, i) => (i === chosen ? { ...one, inBuild: event.target.checked } : one)))
        }
      />{' '}
      in the build
    </label>
  );
}

interface WhichPlanProps {
  readonly chosen: number;
  readonly onChoose: (at: number) => void;
  readonly setRenaming: Dispatch<SetStateAction<boolean>>;
  readonly shelf: PlanShelf;
}

function WhichPlan({ chosen, onChoose, setRenaming, shelf }: WhichPlanProps) {
  return (
    <Select
      size="normal"
      className="max-w-36"
      aria-label="Plan"
      value={chosen}
      onChange={(event) => onChoose(Number(event.target.value))}
      onDoubleClick={() => setRenaming(true)}
    >
      {shelf.map(({ name, inBuild }, i) => (
        <option key={name} value={i}>
          {name}
          {inBuild ? '' : ' (shelved)'}
        </option>
      ))}
      {shelf.length === 0 && <option value={0}>none yet</option>}
    </Select>
  );
}
