import type { Cable, CableOp } from './cable.ts';

/** How long the cable is out of hand at a time. */
const PIECE_SECONDS = 0.5;
const LEAST_CYCLES = 1024;

/** Operations to be carried out at once, and for each of their captures whether the one before goes on in it. */
interface Piece {
  readonly ops: CableOp[];
  readonly goesOn: boolean[];
}

/**
 * Carries a batch out as `Cable.run` does, in pieces of about half a second, and asks before each whether anybody still
 * wants it. A scan may be cut at any bit: with TMS 0 the TAP stays in Shift-DR or Shift-IR (IEEE 1149.1, figure 6-1).
 * Null where it was left.
 */
export async function runInPieces(
  cable: Pick<Cable, 'run' | 'tckHz'>,
  ops: readonly CableOp[],
  isWanted: () => boolean,
): Promise<readonly Uint8Array[] | null> {
  const captured: Uint8Array[][] = [];
  for (const piece of piecesOf(ops, cable.tckHz)) {
    if (!isWanted()) return null;
    const answers = await cable.run(piece.ops);
    answers.forEach((bits, i) => {
      const last = captured.at(-1);
      if (piece.goesOn[i] && last) last.push(bits);
      else captured.push([bits]);
    });
  }
  return captured.map(joined);
}

function* piecesOf(ops: readonly CableOp[], tckHz: number): Iterable<Piece> {
  const most = Math.max(LEAST_CYCLES, Math.round((tckHz * PIECE_SECONDS) / 8) * 8);
  let piece: Piece = { ops: [], goesOn: [] };
  let cycles = 0;
  for (const op of ops)
    for (const part of partsOf(op, most)) {
      piece.ops.push(part.op);
      if (part.op.kind === 'shift' && part.op.capture) piece.goesOn.push(part.goesOn);
      cycles += part.op.kind === 'wait' ? (part.op.microseconds * tckHz) / 1e6 : 'count' in part.op ? part.op.count : 0;
      if (cycles < most) continue;
      yield piece;
      piece = { ops: [], goesOn: [] };
      cycles = 0;
    }
  if (piece.ops.length > 0) yield piece;
}

/** What can take long, cut into what does not; the rest as it is. `most` is a multiple of 8, so that bytes stay whole. */
function* partsOf(op: CableOp, most: number): Iterable<{ readonly op: CableOp; readonly goesOn: boolean }> {
  if (op.kind === 'wait') {
    const longest = PIECE_SECONDS * 1e6;
    let left = op.microseconds;
    for (; left > longest; left -= longest) yield { op: { kind: 'wait', microseconds: longest }, goesOn: false };
    yield { op: { kind: 'wait', microseconds: left }, goesOn: false };
  } else if (op.kind === 'clock' && op.count > most) {
    for (let at = 0; at < op.count; at += most)
      yield { op: { kind: 'clock', count: Math.min(most, op.count - at) }, goesOn: false };
  } else if (op.kind === 'shift' && op.count > most) {
    for (let at = 0; at < op.count; at += most) {
      const count = Math.min(most, op.count - at);
      const isLast = at + count === op.count;
      const tdi = op.tdi.subarray(at >> 3, (at + count + 7) >> 3);
      yield { op: { ...op, count, tdi, exit: op.exit && isLast }, goesOn: at > 0 };
    }
  } else yield { op, goesOn: false };
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const [first] = parts;
  if (parts.length === 1 && first) return first;
  const whole = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
