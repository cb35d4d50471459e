import { decodeText } from '../../../core/build/index.ts';

const TAKEN = /\.(s?vh?|csv|hex|mem|json|md|txt)$/;
const MOST_BYTES = 4 << 20;

interface Dropped {
  readonly taken: readonly { readonly name: string; readonly text: string }[];
  readonly refused: readonly string[];
  /** Of what is taken although it is not as it should be. */
  readonly remarks: readonly string[];
}

/** Files from the desk as sources; what cannot be taken is named with the reason. */
export async function readDropped(files: readonly File[]): Promise<Dropped> {
  const taken: { name: string; text: string }[] = [];
  const refused: string[] = [];
  const remarks: string[] = [];
  for (const file of files) {
    const name = (file.webkitRelativePath || file.name).replaceAll(' ', '_');
    if (!TAKEN.test(name)) refused.push(`${name} is no source. Taken are .v, .sv, .vh, .csv, .hex, .mem, .json.`);
    else if (file.size > MOST_BYTES) refused.push(`${name} is larger than ${MOST_BYTES >> 20} MiB.`);
    else {
      const text = decodeText(name, new Uint8Array(await file.arrayBuffer()));
      if (text.ok) {
        taken.push({ name, text: text.value.text });
        if (text.value.remark !== null) remarks.push(text.value.remark);
      } else refused.push(`${text.error.message} ${text.error.tryNext[0] ?? ''}`);
    }
  }
  return { taken, refused, remarks };
}
