// What frames say. Numbers of several bytes have their lowest byte first. docs/wire.md, section 3

export const WIRE_VERSION = 1;

const KIND = {
  hello: 1,
  work: 2,
  poll: 3,
  bye: 4,
  ready: 0x81,
  done: 0x82,
  state: 0x83,
  lost: 0x84,
  line: 0x85,
} as const;
const FAULT = 0x86;

/** What is wired beside TCK, TMS, TDI and TDO. */
type WireCan = Readonly<Record<'trst' | 'srst' | 'reconfigure' | 'power' | 'measure' | 'line', boolean>>;

/** What the other end says of itself. Sizes in bytes, rates in hertz. */
export interface Ready {
  readonly session: number;
  readonly version: number;
  readonly can: WireCan;
  /** Of a frame before it is stuffed, check and all. */
  readonly frameBytes: number;
  /** Room for work that waits, and for answers that have not arrived. */
  readonly inBytes: number;
  readonly outBytes: number;
  readonly leastHz: number;
  readonly mostHz: number;
  readonly name: string;
}

export type FromPod =
  | ({ readonly kind: 'ready' } & Ready)
  | { readonly kind: 'done'; readonly seq: number; readonly body: Uint8Array }
  | { readonly kind: 'fault'; readonly seq: number; readonly fault: number; readonly at: number }
  | {
      readonly kind: 'state';
      /** Everything before it is carried out. */
      readonly next: number;
      /** Everything before it has arrived. */
      readonly expect: number;
      /** The last question that arrived. */
      readonly poll: number;
      /** Something was missing or damaged: all from `expect` on has to come again. */
      readonly again: boolean;
    }
  | { readonly kind: 'lost'; readonly why: 'started' | 'let-go' }
  | { readonly kind: 'line'; readonly number: number; readonly bytes: Uint8Array };

const SESSION_BYTES = 4;

export function helloFrame(session: number, quietMilliseconds: number): Uint8Array {
  const frame = new Uint8Array(4 + SESSION_BYTES);
  const view = new DataView(frame.buffer);
  frame.set([KIND.hello, WIRE_VERSION]);
  view.setUint32(2, session, true);
  view.setUint16(6, quietMilliseconds, true);
  return frame;
}

/** `acked`: number of the first answer that has not arrived here. */
export function workFrame(seq: number, acked: number, body: Uint8Array): Uint8Array {
  const frame = new Uint8Array(WORK_HEAD_BYTES + body.length);
  frame.set([KIND.work, seq, acked]);
  frame.set(body, WORK_HEAD_BYTES);
  return frame;
}

/** Bytes of a frame of work beside its body, its check included; what it takes of the room at the other end. */
const WORK_HEAD_BYTES = 3;
export const WORK_FRAME_BYTES = WORK_HEAD_BYTES + 2;
export const WORK_ROOM_BYTES = 2;
/** The same of an answer. */
export const ANSWER_FRAME_BYTES = 2 + 2;
export const ANSWER_ROOM_BYTES = 2 + ANSWER_FRAME_BYTES;

/** With `wants` the other end says where it is, and sends again what was not acknowledged. */
export const pollFrame = (acked: number, poll: number, wants: boolean): Uint8Array =>
  Uint8Array.of(KIND.poll, acked, poll, wants ? 1 : 0);

export const byeFrame = (): Uint8Array => Uint8Array.of(KIND.bye);

/** Null for what no pod sends. */
export function readFrame(frame: Uint8Array): FromPod | null {
  const [kind, first = 0, second = 0, third = 0, fourth = 0] = frame;
  const body = frame.subarray(2);
  switch (kind) {
    case KIND.ready:
      return frame.length < READY_BYTES ? null : { kind: 'ready', ...readyOf(frame) };
    case KIND.done:
      return frame.length < 2 ? null : { kind: 'done', seq: first, body };
    case FAULT:
      return frame.length < 5 ? null : { kind: 'fault', seq: first, fault: second, at: third | (fourth << 8) };
    case KIND.state:
      return frame.length < 5 ? null : { kind: 'state', next: first, expect: second, poll: third, again: fourth !== 0 };
    case KIND.lost:
      return frame.length < 2 ? null : { kind: 'lost', why: first === 2 ? 'let-go' : 'started' };
    case KIND.line:
      return frame.length < 3 ? null : { kind: 'line', number: first | (second << 8), bytes: frame.subarray(3) };
    default:
      return null;
  }
}

const READY_BYTES = 22;

function readyOf(frame: Uint8Array): Ready {
  const view = new DataView(frame.buffer, frame.byteOffset, frame.byteLength);
  const can = view.getUint16(6, true);
  const has = (bit: number) => ((can >> bit) & 1) === 1;
  return {
    session: view.getUint32(1, true),
    version: view.getUint8(5),
    can: { trst: has(0), srst: has(1), reconfigure: has(2), power: has(3), measure: has(4), line: has(5) },
    frameBytes: view.getUint16(8, true),
    inBytes: view.getUint16(10, true),
    outBytes: view.getUint16(12, true),
    leastHz: view.getUint32(14, true),
    mostHz: view.getUint32(18, true),
    name: String.fromCharCode(...frame.subarray(READY_BYTES)).replace(/[^\x20-\x7e]/g, '?'),
  };
}
