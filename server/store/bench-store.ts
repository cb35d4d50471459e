import type { Knex } from 'knex';
import { type BsdlEntity, readBsdl } from '../../core/bsdl/index.ts';
import type { Kept } from './captures.ts';
import type { ImageFormat } from '../../core/images/index.ts';
import type { PlaceAnswer } from '../../core/jtag/index.ts';
import { knownFrom } from '../../core/families/index.ts';
import { type ProbeMap, readProbeMap } from '../../core/probes/index.ts';

/** One design that was put into an FPGA. */
interface LoadRow {
  readonly id: number;
  readonly time: string;
  readonly board: string;
  readonly device: number;
  readonly part: string;
  readonly fingerprint: string;
  readonly source: string;
  readonly outcome: 'done' | 'failed' | 'interrupted';
  readonly verified: boolean | null;
  /** Who loaded it, where that was not this workbench. */
  readonly by: string;
}

/** A file that was given to us. `start` and `end` are the addresses of its data; `end` is the first one behind it. */
export interface ImageRow {
  readonly id: number;
  readonly name: string;
  readonly added: string;
  readonly format: ImageFormat;
  readonly start: number;
  readonly end: number;
  /** Length of the file. */
  readonly bytes: number;
  /** Of the build that would boot from it; null where it is no image of one. */
  readonly fingerprint: string | null;
}

const MOST_SHOWN = 500;
/** Files that are kept: of one name, of all names, and all together. Older ones go first. */
const MOST_OF_A_NAME = 5;
const MOST_IMAGES = 200;
const MOST_IMAGE_BYTES = 2 ** 31;

/** What is remembered of boards: answers about places of their chains, descriptions of devices, what was loaded. */
export class BenchStore {
  readonly #db: Knex;
  /** Descriptions by their text, so that none is read twice. */
  #entities: ReadonlyMap<string, BsdlEntity | null> = new Map();

  constructor(db: Knex) {
    this.#db = db;
  }

  /** By the board's key; answers from before boards had keys are known by the pod's name alone. */
  async answers(board: string, name: string): Promise<PlaceAnswer[]> {
    const own = (await this.#db('places').where({ board }).first('index')) as { index: number } | undefined;
    const rows = (await this.#db('places')
      .where({ board: own ? board : name })
      .orderBy('index')) as { index: number; idcode: number | null; part: string | null; ir_length: number | null }[];
    return rows.map(({ index, idcode, part, ir_length }) => ({
      index,
      idcode,
      ...(part === null ? {} : { part }),
      ...(ir_length === null ? {} : { irLength: ir_length }),
    }));
  }

  /** Remembers what stands at a place; nothing given forgets it. */
  async answer(board: string, { index, idcode, part, irLength }: PlaceAnswer): Promise<void> {
    if (part === undefined && irLength === undefined) await this.#db('places').where({ board, index }).delete();
    else
      await this.#db('places')
        .insert({ board, index, idcode, part: part ?? null, ir_length: irLength ?? null })
        .onConflict(['board', 'index'])
        .merge();
  }

  async descriptions(): Promise<readonly BsdlEntity[]> {
    return (await this.descriptionRows()).map(({ entity }) => entity);
  }

  /** Descriptions with when they were added. */
  async descriptionRows(): Promise<readonly { readonly entity: BsdlEntity; readonly added: string }[]> {
    const rows: { text: string; added: string }[] = await this.#db('descriptions')
      .orderBy('name')
      .select('text', 'added');
    const all = rows.map(({ text }) => [text, this.#entities.get(text) ?? readBsdl(text).entity] as const);
    this.#entities = new Map(all);
    return rows.flatMap(({ text, added }) => {
      const entity = this.#entities.get(text);
      return entity ? [{ entity, added }] : [];
    });
  }

  /** Keeps a description that was read before and found good. */
  async addDescription(name: string, text: string): Promise<void> {
    await this.#db('descriptions').insert({ name, text, added: new Date().toISOString() }).onConflict('name').merge();
  }

  async removeDescription(name: string): Promise<boolean> {
    return (await this.#db('descriptions').where({ name }).delete()) === 1;
  }

  /** What discovery can recognise besides the parts known here. */
  async known() {
    return (await this.descriptions()).flatMap((entity) => knownFrom(entity) ?? []);
  }

  async addLoad(
    row: Omit<LoadRow, 'id' | 'time' | 'by'> & { readonly time?: string; readonly by?: string },
  ): Promise<void> {
    await this.#db('loads').insert({ time: new Date().toISOString(), ...row });
  }

  async loads(): Promise<LoadRow[]> {
    const rows = (await this.#db('loads').orderBy('id', 'desc').limit(MOST_SHOWN)) as (Omit<LoadRow, 'verified'> & {
      verified: number | null;
    })[];
    return rows.map((row) => ({ ...row, verified: row.verified === null ? null : Boolean(row.verified) }));
  }

  async addImage(
    name: string,
    bytes: Uint8Array,
    {
      format,
      start,
      end,
      fingerprint = null,
    }: Pick<ImageRow, 'format' | 'start' | 'end'> & Partial<Pick<ImageRow, 'fingerprint'>>,
  ): Promise<number> {
    const [id] = (await this.#db('images').insert({
      name,
      bytes: Buffer.from(bytes),
      added: new Date().toISOString(),
      format,
      start,
      end,
      fingerprint,
    })) as [number];
    return id;
  }

  images(): Promise<ImageRow[]> {
    return this.#db('images')
      .orderBy('id', 'desc')
      .select('id', 'name', 'added', 'format', 'start', 'end', 'fingerprint', { bytes: this.#db.raw('length(bytes)') });
  }

  async imagesKept(): Promise<Kept> {
    const images = await this.images();
    const bytes = images.reduce((sum, image) => sum + image.bytes, 0);
    return { count: images.length, bytes, most: MOST_IMAGES, mostBytes: MOST_IMAGE_BYTES };
  }

  /** Deletes the oldest files beyond what is kept, none of those in use, and gives their names. */
  async makeRoom(inUse: ReadonlySet<number>): Promise<string[]> {
    const rows: { id: number; name: string; size: number }[] = await this.#db('images')
      .orderBy('id', 'desc')
      .select('id', 'name', this.#db.raw('length(bytes) as size'));
    const ofName = new Map<string, number>();
    let [kept, bytes] = [0, 0];
    const beyond = rows.filter(({ id, name, size }) => {
      const before = ofName.get(name) ?? 0;
      const fits = before < MOST_OF_A_NAME && kept < MOST_IMAGES && bytes + size <= MOST_IMAGE_BYTES;
      if (!fits && !inUse.has(id)) return true;
      ofName.set(name, before + 1);
      kept++;
      bytes += size;
      return false;
    });
    await this.#db('images')
      .whereIn(
        'id',
        beyond.map(({ id }) => id),
      )
      .delete();
    return beyond.map(({ name }) => name);
  }

  async image(
    id: number,
  ): Promise<{ readonly name: string; readonly added: string; readonly bytes: Uint8Array } | null> {
    const row = (await this.#db('images').where({ id }).first()) as
      | { name: string; added: string; bytes: Buffer }
      | undefined;
    return row ? { name: row.name, added: row.added, bytes: new Uint8Array(row.bytes) } : null;
  }

  /** Keeps what a build says of its debug cores, for bitstreams that were built elsewhere. */
  async addProbeMap(name: string, map: ProbeMap): Promise<void> {
    await this.#db('probe_maps')
      .insert({ fingerprint: map.fingerprint, name, map: JSON.stringify(map), added: new Date().toISOString() })
      .onConflict('fingerprint')
      .merge();
  }

  async probeMap(fingerprint: string): Promise<{ readonly name: string; readonly map: ProbeMap } | null> {
    const row = (await this.#db('probe_maps').where({ fingerprint }).first('name', 'map')) as
      | { name: string; map: string }
      | undefined;
    const read = row ? readProbeMap(JSON.parse(row.map)) : null;
    return row && read?.ok ? { name: row.name, map: read.value } : null;
  }

  /** The newest of that name, as layouts mean it. */
  async imageNamed(name: string): Promise<Uint8Array | null> {
    const row = (await this.#db('images').where({ name }).orderBy('id', 'desc').first('bytes')) as
      | { bytes: Buffer }
      | undefined;
    return row ? new Uint8Array(row.bytes) : null;
  }

  async removeImage(id: number): Promise<boolean> {
    return (await this.#db('images').where({ id }).delete()) === 1;
  }
}
