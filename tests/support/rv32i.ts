// A small assembler of RV32I for tests. Encodings: The RISC-V Instruction Set Manual, volume I, chapter 2 (from memory).

const R: Readonly<Record<string, readonly [number, number]>> = {
  add: [0, 0],
  sub: [0, 0x20],
  sll: [1, 0],
  slt: [2, 0],
  sltu: [3, 0],
  xor: [4, 0],
  srl: [5, 0],
  sra: [5, 0x20],
  or: [6, 0],
  and: [7, 0],
};
const I: Readonly<Record<string, number>> = { addi: 0, slti: 2, sltiu: 3, xori: 4, ori: 6, andi: 7, slli: 1, srli: 5 };
const LOADS: Readonly<Record<string, number>> = { lb: 0, lh: 1, lw: 2, lbu: 4, lhu: 5 };
const STORES: Readonly<Record<string, number>> = { sb: 0, sh: 1, sw: 2 };
const BRANCHES: Readonly<Record<string, number>> = { beq: 0, bne: 1, blt: 4, bge: 5, bltu: 6, bgeu: 7 };

/** Words of a program; one instruction a line, labels end with a colon, registers are x0 to x31. */
export function assembled(source: string): number[] {
  const lines = source
    .split('\n')
    .map((line) => line.replace(/#.*/, '').trim())
    .filter((line) => line !== '');
  const labels = new Map<string, number>();
  const instructions: string[] = [];
  for (const line of lines)
    if (line.endsWith(':')) labels.set(line.slice(0, -1), instructions.length * 4);
    else instructions.push(line);
  return instructions.map((line, i) => encoded(line, i * 4, labels) >>> 0);
}

function encoded(line: string, at: number, labels: ReadonlyMap<string, number>): number {
  const [name = '', ...words] = line.split(/[\s,()]+/).filter((word) => word !== '');
  const number = (word = ''): number => {
    if (/^x\d+$/.test(word)) return Number(word.slice(1));
    const label = labels.get(word);
    return label ?? Number(word);
  };
  const [a = 0, b = 0, c = 0] = words.map(number);
  const away = (target: number) => target - at;
  if (name === '.word') return a;
  if (name in R) {
    const [funct3, funct7] = R[name] ?? [0, 0];
    return (funct7 << 25) | (c << 20) | (b << 15) | (funct3 << 12) | (a << 7) | 0x33;
  }
  if (name in I) return ((c & 0xfff) << 20) | (b << 15) | ((I[name] ?? 0) << 12) | (a << 7) | 0x13;
  if (name in LOADS) return ((b & 0xfff) << 20) | (c << 15) | ((LOADS[name] ?? 0) << 12) | (a << 7) | 0x03;
  if (name in STORES)
    return (((b >> 5) & 0x7f) << 25) | (a << 20) | (c << 15) | ((STORES[name] ?? 0) << 12) | ((b & 0x1f) << 7) | 0x23;
  if (name in BRANCHES) {
    const to = away(c);
    const bits =
      (((to >> 12) & 1) << 31) | (((to >> 5) & 0x3f) << 25) | (((to >> 1) & 0xf) << 8) | (((to >> 11) & 1) << 7);
    return bits | (b << 20) | (a << 15) | ((BRANCHES[name] ?? 0) << 12) | 0x63;
  }
  if (name === 'jal') {
    const to = away(b);
    const bits =
      (((to >> 20) & 1) << 31) | (((to >> 1) & 0x3ff) << 21) | (((to >> 11) & 1) << 20) | (((to >> 12) & 0xff) << 12);
    return bits | (a << 7) | 0x6f;
  }
  if (name === 'jalr') return ((c & 0xfff) << 20) | (b << 15) | (a << 7) | 0x67;
  if (name === 'lui') return ((b & 0xfffff) << 12) | (a << 7) | 0x37;
  throw new Error(`"${line}" is no instruction`);
}
