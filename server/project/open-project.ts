import type { BoardNet } from '../../core/boundary/index.ts';
import { familiesOf, PROJECT_FILE, readProjectFile } from '../../core/build/index.ts';
import { type BoardDescription, readBoard } from '../../core/constraints/index.ts';
import { FAMILIES, type Family, placedPorts, readBitstream } from '../../core/families/index.ts';
import type { LoadContext } from '../../core/operations/index.ts';
import { type Board, type ExpectedChain, expectedChain } from '../board/index.ts';
import { type FactStore, staleBecause, type Store } from '../store/index.ts';

interface Named {
  readonly id: number;
  readonly name: string;
}

interface Needs {
  readonly store: Pick<Store, 'projects' | 'builds'>;
  readonly board: Board;
  readonly facts: FactStore;
}

/** The project being worked on, and what it says of the board in front of it. */
export class OpenProject {
  readonly #store: Needs['store'];
  readonly #board: Board;
  readonly #facts: FactStore;
  #families: { readonly key: string; readonly all: readonly Family[] } | null = null;
  #pinNames: {
    readonly print: string | null;
    readonly project: number | undefined;
    readonly names: Readonly<Record<string, string>>;
  } | null = null;

  constructor({ store, board, facts }: Needs) {
    this.#store = store;
    this.#board = board;
    this.#facts = facts;
  }

  current(): Promise<Named | null> {
    return this.#store.projects.current();
  }

  /** Its name for the logbook; empty without one. */
  async name(): Promise<string> {
    return (await this.current())?.name ?? '';
  }

  /** The chain that is expected on this board, beside the last scan. */
  async expectedChain(): Promise<ExpectedChain> {
    const { scan } = this.#board.said;
    return expectedChain(
      (await this.#facts.get('chain'))?.text ?? null,
      await this.#filesLike('.chain.json'),
      scan && scan.devices.length > 0 ? scan.devices : null,
    );
  }

  /** Nets between devices as the project's board descriptions name them. */
  async boardNets(): Promise<readonly BoardNet[]> {
    return (await this.#descriptions()).flatMap((board) => board.links.map(({ net, pins }) => ({ name: net, pins })));
  }

  /** The flash chip that the project's board description names; null without one. */
  async boardFlash(): Promise<string | null> {
    return (await this.#descriptions()).find((board) => board.flash !== undefined)?.flash ?? null;
  }

  /** What pins are called: by the design that runs where it is one of ours, else by the board's nets. */
  async pinNames(): Promise<Readonly<Record<string, string>>> {
    const { running } = this.#board.said;
    const print = running?.fingerprint ?? null;
    const project = await this.current();
    if (this.#pinNames?.print === print && this.#pinNames.project === project?.id) return this.#pinNames.names;
    const names: Record<string, string> = {};
    for (const { name, pins } of await this.boardNets()) for (const pin of pins) names[pin] = name;
    const row = print !== null && project ? await this.#store.builds.byFingerprint(project.id, print) : null;
    const bytes = row ? await this.#store.builds.bitstream(row.id) : null;
    const read = bytes ? readBitstream(bytes) : null;
    if (read?.ok && running)
      for (const { port, bit, width, pin } of placedPorts(read.value))
        names[`${running.device}.${pin}`] = width > 1 ? `${port}[${bit}]` : port;
    this.#pinNames = { print, project: project?.id, names };
    return names;
  }

  /** Edits since the newest build with a bitstream, in words. */
  async staleEdits(): Promise<string[]> {
    const project = await this.current();
    if (!project) return [];
    const { builds, projects } = this.#store;
    return staleBecause(await builds.latestGood(project.id), await projects.digests(project.id)).map(
      (edit) => edit.what,
    );
  }

  /** What the checks before a load compare with. */
  async loadContext(madeAt: number | null, isBuild: boolean): Promise<LoadContext> {
    const running = this.#board.said.running?.fingerprint ?? null;
    const project = await this.current();
    if (!project) return { boardPart: null, buildPrint: null, stale: [], madeAt, sourcesSavedAt: null, running };
    const [latest, files, [board]] = await Promise.all([
      this.#store.builds.latestGood(project.id),
      this.#store.projects.files(project.id),
      this.#descriptions(),
    ]);
    const saved = files.filter(({ name }) => /\.s?vh?$/.test(name)).map(({ changed }) => Date.parse(changed));
    return {
      boardPart: board ? { part: board.part, package: board.package ?? null } : null,
      buildPrint: latest?.details.fingerprint ?? null,
      stale: await this.staleEdits(),
      madeAt,
      sourcesSavedAt: isBuild || saved.length === 0 ? null : Math.max(...saved),
      running,
    };
  }

  /** Part that the project is for; null where there is none, or nimble.json cannot be read. */
  async part(): Promise<string | null> {
    const project = await this.current();
    const text = project ? await this.#store.projects.text(project.id, PROJECT_FILE) : null;
    const read = text === null ? null : readProjectFile(text);
    return read?.ok ? read.value.part : null;
  }

  /**
   * Families whose parts are known: those of the product, and that of the project's own part where it describes one.
   * What is wrong with that description a build tells.
   */
  async families(): Promise<readonly Family[]> {
    const project = await this.current();
    const text = project ? await this.#store.projects.text(project.id, PROJECT_FILE) : null;
    const read = text === null ? null : readProjectFile(text);
    const file = read?.ok ? read.value : null;
    if (!project || !file?.foreign) return FAMILIES;
    const { bsdl } = file.foreign;
    const described = (await this.#store.projects.text(project.id, bsdl)) ?? '';
    const key = `${text}\n${described}`;
    // The same objects as long as nothing has changed: a session then knows that it knows them.
    if (this.#families?.key !== key) {
      const all = familiesOf({ file, files: [{ name: bsdl, text: described }] });
      this.#families = { key, all: all.ok ? all.value : FAMILIES };
    }
    return this.#families.all;
  }

  async #filesLike(end: string) {
    const project = await this.current();
    return project ? this.#store.projects.filesLike(project.id, end) : [];
  }

  async #descriptions(): Promise<readonly BoardDescription[]> {
    return (await this.#filesLike('.board.json')).flatMap(({ name, text }) => {
      const read = readBoard(name, text);
      return read.ok ? [read.value] : [];
    });
  }
}
