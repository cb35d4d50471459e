'use client';
import { partNamed } from '../../../core/families/index.ts';
import { Button, dateTime, shortPrint, useImages, useLive, useStart } from '../../shared/index.ts';

import { bootsFile } from '../chosen.ts';

/** What will be lost, asked once, where the writing is asked for. */
export function Question({ onEnd }: { readonly onEnd: () => void }) {
  const state = useLive('running', 'kept', 'keepChoice', 'usable', 'project');
  const start = useStart();
  const { kept, keepChoice: choice, usable, project } = state ?? {};
  const image = useImages().find(({ id }) => id === choice?.image?.id);
  const isData = image !== undefined && choice?.image ? bootsFile(image, choice.image) === null : false;
  const part = usable?.part ?? project?.part ?? '';
  const stops = partNamed(part)?.flashStopsDesign ?? false;
  const write = async () => {
    onEnd();
    await start({ kind: 'keep' });
  };
  return (
    <section className="mb-3 border-signal border-l-4 bg-raised px-3 py-2" aria-label="Before writing">
      <p>
        {stops ? (
          <b>What runs stops: a {part} shares its flash pins with the design. </b>
        ) : state?.running?.done ? (
          'What runs goes on meanwhile. '
        ) : (
          ''
        )}
        {choice?.image
          ? `The data of ${choice.image.name} is`
          : choice?.layout
            ? `The blocks of ${choice.layout} are`
            : 'The newest build is'}{' '}
        compared with what is there; sectors that differ are erased and written, what shares one stays. Lost is{' '}
        {choice?.image
          ? 'what stood at the addresses of the file'
          : choice?.layout && !choice.replaceGolden
            ? 'what stood in the places of the update and of data; a golden image that stands is not touched'
            : kept
              ? `build ${shortPrint(kept.fingerprint)}, written ${dateTime(kept.time)}`
              : 'whatever is there now: it was not written from here'}
        .{' '}
        {isData
          ? 'It is data alone, so no boot is rehearsed after it.'
          : 'At the end the ' +
            `${choice?.rehearseBy === 'reconfigure' ? 'FPGA reads its flash again, by the reconfigure wire' : 'board is power-cycled'}.`}
      </p>
      <div className="mt-2 flex gap-2">
        <Button look="main" autoFocus onClick={write}>
          Erase and write
        </Button>
        <Button onClick={onEnd}>Leave it as it is</Button>
      </div>
    </section>
  );
}
