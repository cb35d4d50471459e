// A reader of Intel HEX from the registry, used in tests alone; it brings no types.
declare module 'intel-hex' {
  export function parse(text: string): { readonly data: Uint8Array };
}
