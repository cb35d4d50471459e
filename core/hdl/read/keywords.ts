// Which words mean something, by the standard a file is written in.

/** Standards a source may follow, by the names that `begin_keywords` takes. */
export type Language = 'verilog' | 'systemverilog';

/**
 * Words that IEEE 1800 adds to those of IEEE 1364-2005. In a file that is Verilog they are names.
 *
 * @source IEEE 1364-2005, annex B; IEEE 1800-2017, annex B
 */
const NEWER = new Set(
  `accept_on alias always_comb always_ff always_latch assert assume before bind bins binsof bit break byte chandle
  checker class clocking const constraint context continue cover covergroup coverpoint cross dist do endchecker
  endclass endclocking endgroup endinterface endpackage endprogram endproperty endsequence enum eventually expect
  export extends extern final first_match foreach forkjoin global iff ignore_bins illegal_bins implements implies
  import inside int interconnect interface intersect join_any join_none let local logic longint matches modport
  nettype new nexttime null package packed priority program property protected pure rand randc randcase randsequence
  ref reject_on restrict return s_always s_eventually s_nexttime s_until s_until_with sequence shortint shortreal
  soft solve static string strong struct super sync_accept_on sync_reject_on tagged this throughout timeprecision
  timeunit type typedef union unique unique0 until until_with untyped var virtual void wait_order weak wildcard with
  within`
    .trim()
    .split(/\s+/),
);

export const isNewer = (word: string): boolean => NEWER.has(word);

/** By the ending of a file's name, unless the project says otherwise. */
export const languageOf = (file: string): Language => (/\.svh?$/i.test(file) ? 'systemverilog' : 'verilog');

/** What an argument of `begin_keywords` asks for; null where it names no standard. */
export function languageNamed(standard: string): Language | null {
  if (/^1800-20(05|09|12|17|23)$/.test(standard)) return 'systemverilog';
  return /^1364-(1995|2001|2001-noconfig|2005)$/.test(standard) ? 'verilog' : null;
}
