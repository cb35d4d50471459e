import { own } from '../lists.ts';

/** What a message code means, for somebody who did not write the sources. */
interface Explanation {
  readonly title: string;
  /** What goes wrong on the board, and why. */
  readonly why: string;
  /** What to do, most useful first. */
  readonly next: readonly string[];
}

const entry = (title: string, why: string, ...next: string[]): Explanation => ({ title, why, next });

const EXPLANATIONS: Readonly<Record<string, Explanation>> = {
  latch: entry(
    'Latch inferred',
    'On some path through the block the signal gets no value, so it would have to remember the last one without ' +
      'a clock. FPGAs here have no latches, and where they exist they are hard to time.',
    'Give the signal a value at the top of the block.',
    'Add the missing else or default.',
  ),
  'several-drivers': entry(
    'Several drivers',
    'Two pieces of logic give one signal its value. In hardware they would short each other; in simulation the ' +
      'signal turns x.',
    'Keep one driver.',
    'If the sources take turns, join them with ?: or case.',
  ),
  loop: entry(
    'Combinational loop',
    'The logic feeds itself without a register, so its value depends on delays: it may oscillate or stick.',
    'Follow the way round below and put a register into it.',
    'Look for a signal assigned from itself in an always @* block.',
  ),
  'width-loss': entry(
    'Bits are lost',
    'The value is wider than what it is assigned to. The upper bits are cut off, often harmlessly, sometimes in ' +
      'a sum that overflows.',
    'Make the target wider.',
    'If the loss is meant, cut the value explicitly: value[7:0].',
  ),
  'port-width': entry(
    'A port of another width',
    'The port of the instance and what it is connected to have different widths. The narrower one is filled with zeros, ' +
      'or with its sign; of the wider one the upper bits go nowhere.',
    'Look at both declarations: is a range or a parameter of the instance another than was meant?',
    "If it is meant, say so: .data({4'b0, nibble}), or .result(word[3:0]).",
  ),
  undriven: entry(
    'Undriven signal',
    'Nothing in the design gives this signal a value. In hardware it reads 0.',
    'Connect it, or delete it.',
    'If it waits for a lever, that is what it is for; accept this message with that reason.',
  ),
  unused: entry(
    'Unused signal',
    'The signal has a value that nothing reads. It takes no hardware.',
    'Delete it, or connect what should read it.',
  ),
  removed: entry(
    'Removed by optimisation',
    'Something reads this signal, but nothing that follows from it reaches an output, so hardware for it would ' +
      'change nothing. It cannot be probed.',
    'Check whether an output is missing further along.',
    'Mark the declaration with (* keep *) to hold it for probing.',
  ),
  'never-changes': entry(
    'Register that never changes',
    'Whatever happens, the register keeps one value, so it became a constant.',
    'Look at its enable, reset and next value: one of them is stuck.',
  ),
  'clock-as-data': entry(
    'Clock used as data',
    'A clock is read by logic. Registers on that clock look exactly when it changes, so what they see depends on ' +
      'wire delays.',
    'To forward a clock to a pin, use a register of twice the clock, or accept this message.',
    'To see whether a clock runs, count its edges in a register and read that.',
  ),
  'derived-clock': entry(
    'Clock made by logic',
    'A register or logic makes this clock. It arrives later than the clock it comes from and does not use the ' +
      'clock network, so signals between the two are hard to time.',
    'Clock the registers by the original clock and use an enable that is 1 for one clock in n.',
    'For a slow lamp or a serial speed, an enable does the same.',
  ),
  'gated-clock': entry(
    'Gated clock',
    'The clock passes through a gate. When the gate opens or closes while the clock is high, a short pulse gets ' +
      'out that some registers take for an edge and others do not.',
    'Use the gate as an enable: if (gate) q <= d.',
  ),
  'crossing-synchronised': entry(
    'Crossing with synchroniser',
    'A single bit comes from another clock through two registers in a row. That is right: the first may waver, ' +
      'the second has settled.',
    'Nothing to do.',
  ),
  'crossing-unsynchronised': entry(
    'Crossing without synchroniser',
    'The register looks at a signal of another clock. Sooner or later it looks just while that changes, wavers, ' +
      'and different readers see different values. Such faults come and go.',
    'Put two registers of the receiving clock in a row behind the signal and use the second.',
    'reg [1:0] sync; always @(posedge clk) sync <= {sync[0], foreign};',
  ),
  'crossing-logic': entry(
    'Logic between two clocks',
    'The value from the other clock goes through logic first. Logic produces short wrong values on the way to ' +
      'the right one, and the receiving register may catch one of them.',
    'Register the value in its own clock first, then bring that across.',
    'If several bits are involved, see what is said of a bus that crosses.',
  ),
  'crossing-bus': entry(
    'Bus that crosses bit by bit',
    'Each bit arrives in its own time. When several change at once, the receiver sees some old and some new ' +
      'bits: a number that never existed. A comparison with it goes wrong now and then.',
    'Hold the word still, bring one flag across with two registers, and take the word when the flag arrives.',
    'For a counter, cross it in Gray code, where only one bit changes at a time.',
    'For a stream of words, use a memory with two clocks and Gray-coded addresses.',
  ),
  'crossing-qualified': entry(
    'Crossing with an enable',
    'The word is taken only when a signal of the receiving clock says so. That is sound if the sender holds the ' +
      'word still until then.',
    'Check that the sender does not change the word while the enable may come.',
  ),
  'crossing-reset': entry(
    'Reset from another clock',
    'The reset ends at any moment of the receiving clock, so some registers leave it a clock later than others; ' +
      'a state machine may start in the wrong state.',
    'Let the reset begin at once but end through two registers of the receiving clock.',
  ),
  'case-open': entry(
    'Missing case arm',
    'Some values of the subject have no arm. Registers then keep what they hold; a state machine in such a value ' +
      'never leaves it.',
    'Add a default that goes to a safe state.',
    'If staying put is meant, add an empty default and say so.',
  ),
  'never-matches': entry(
    'Label that never matches',
    'A case label with x or z digits matches only a signal that is x or z, which hardware never is.',
    'Use casez, with ? where a bit does not matter.',
  ),
  unconnected: entry(
    'Unconnected input',
    'An input of an instance is connected to nothing and reads 0.',
    "Connect it, to a constant if need be: .name(1'b0).",
  ),
  'implicit-net': entry(
    'Undeclared net',
    'The name is used without a declaration and becomes a wire of one bit. A slip of the pen looks the same, and ' +
      'a bus loses all bits but one.',
    'Declare it with its width.',
    'Put `default_nettype none at the top of the file, so that slips are errors.',
  ),
  'out-of-range': entry(
    'Index out of range',
    'The index names bits that the word does not have. They read 0, and writing them does nothing.',
    'Compare the index with the declaration.',
  ),
  'initial-value': entry(
    'Power-up value is not constant',
    'Registers start with what the configuration holds, so the value must be known when the design is built.',
    'Give a constant, and load the rest in a reset.',
  ),
  'async-reset': entry(
    'Reset cannot be told from the clock',
    'With several edges in the event list, the form tells which is the clock: every reset is tested by an if, ' +
      "the last else is the clock's.",
    'Write: if (reset) ... else ... , testing exactly the signal of the event list.',
  ),
  'reset-value': entry(
    'Reset value is not constant',
    'An asynchronous reset sets or clears flip-flops; it cannot load a signal.',
    'Load the value synchronously, in the first clock after reset.',
  ),
  'memory-reset': entry(
    'Memory in a reset',
    'A memory has no reset: its words cannot all be written at one moment.',
    'Clear it word by word with a counter, or leave it out of the reset.',
  ),
  'memory-without-clock': entry(
    'Memory written without a clock',
    'A memory is written a word at a clock edge.',
    'Write it in an always block with posedge.',
  ),
  'memory-order': entry(
    'Order of writes decides',
    'Two always blocks write the same bits of a memory at one edge. The language leaves the order of blocks ' +
      'open; here the later block wins.',
    'Write each bit in one block only.',
    'If the order is meant, put both writes into one block, the winner last.',
  ),
  'memory-clocks': entry(
    'Words written by several clocks',
    'Several clocks write parts of one memory. A block RAM writes each port by one clock, and where two clocks ' +
      'tick at once only one of the two writes is kept.',
    'Write the memory by one clock.',
    'Or keep the parts in memories of their own, one for each clock.',
  ),
  'several-tops': entry(
    'Top not named',
    'The top is the module whose ports are the pins of the FPGA. Without a name it is the only one that no other ' +
      'module uses, and here several are not used.',
    'Take one of them as the top.',
    'If one of them is left over, take its file out of the project.',
  ),
  'no-top': entry(
    'No top',
    'The top is the module whose ports are the pins of the FPGA. The one that is named is not in the sources, or ' +
      'every module is used by another one.',
    'Take one of the modules that are there.',
    'Add the file that is missing.',
  ),
  'module-unused': entry(
    'Module in no design',
    'The sources hold a module that the top does not reach. It is read for its syntax and takes no hardware.',
    'Add the instance that is missing, or take it as the top.',
    'Take its file out of the project if it belongs elsewhere.',
  ),
  'tri-state': entry(
    'Floating value inside',
    'Nothing inside an FPGA can float; only pins can.',
    'Assign the z to an inout or output port of the top module.',
    'Inside, choose between the sources.',
  ),
  'not-synthesizable': entry(
    'Belongs in a simulation',
    'Waiting for times and events has no hardware.',
    'Move it to a file that is not part of the design.',
    'To wait, count clocks.',
  ),
  'not-taken': entry('Not taken', 'This part of the language has no hardware here.', 'The message names a way round.'),
  'loop-not-constant': entry(
    'Loop of unknown length',
    'A loop becomes hardware once for each turn, so the number of turns must be known when the design is built.',
    'Loop to a fixed bound and leave with break or an if inside.',
    'Or do one turn a clock in a state machine.',
  ),
  'endless-loop': entry(
    'Loop without an end',
    'The loop did not end after very many turns.',
    'Check its condition and its step.',
  ),
  'recursive-instance': entry(
    'Module inside itself',
    'The module contains an instance of itself, without an end.',
    'Check the instance names; use generate with a condition that ends.',
  ),
  'does-not-fit': entry(
    'Does not fit the part',
    'The design needs more than the part has.',
    'Resources by instance show what takes most.',
    'Take a larger part, or do in several clocks what is done in one.',
  ),
  'clock-unconstrained': entry(
    'Clock without a constraint',
    'Nobody said how fast this clock runs, so timing cannot be judged: the design may be far too slow and ' +
      'nothing would tell.',
    'Take the frequency of the oscillator on its pin.',
  ),
  'clock-too-fast': entry(
    'Too slow for its clock',
    'The longest way between two registers takes longer than a clock lasts, by the estimate of timing.',
    'Put a register into the middle of the longest path.',
    'Slow the clock down, or use an enable.',
  ),
  'timing-table': entry(
    'Line of the timing table not understood',
    'The line says nothing that can be taken, so timing is judged as if it were not there.',
    'A line is: kind, from, to, value. Kinds are multicycle (a number of cycles), false path (no value), input delay ' +
      'and output delay (a time).',
  ),
  'timing-unused': entry(
    'Timing rule about nothing',
    'No way of the design begins and ends where the rule says. The names may be wrong, or the logic is gone.',
    'Copy the names from the list of the longest ways.',
    'Take the line out if what it was about is no longer there.',
  ),
  'timing-clock': entry(
    'Delay against a clock without a frequency',
    'What the board takes can only be weighed against a cycle whose length is known.',
    'Give the clock its frequency under Clocks.',
  ),
  'port-too-slow': entry(
    'Too slow through a pin',
    'What the board takes and what the part takes are together longer than a cycle of the clock, by the estimate of ' +
      'timing.',
    'Put a register next to the pin.',
    'Check what the board really takes.',
  ),
  'unplaced-port': entry(
    'Port on no pin',
    'The port is connected to no pin. An input reads 0, an output is seen by nobody.',
    'Give it a pin in the ports table.',
  ),
  'unplaced-clock': entry(
    'Clock on no pin',
    'The port is a clock and connected to no pin, so its registers never see an edge: all of them keep what they ' +
      'held at power-up.',
    'Give it a pin that reaches the clock network, marked on the package drawing.',
  ),
  'unknown-part': entry(
    'No such part',
    'Designs are built for the parts that are known here; the project names another one, or spells it otherwise.',
    'Choose a part under Project.',
  ),
  'unknown-package': entry(
    'Part does not come in this package',
    'The project names a package that the part is not sold in, so there are no pins to choose of.',
    'Choose a package under Project.',
  ),
  'board-package': entry(
    'Not the package of the board',
    "The board's description says that the FPGA comes in another package than the project is built for. A pin of " +
      'the same name is another pad there, or none.',
    'Compare the marking and the number of pins of the FPGA with both.',
    "Choose the board's package under Project, or correct the board's description.",
  ),
  'pin-unknown': entry(
    'No such pin',
    'The package has no user pin of that name: it does not exist, or carries supply or configuration.',
    'Look at the package drawing.',
  ),
  'pin-twice': entry('Pin used twice', 'Two ports share a pin. Two outputs would fight.', 'Move one of them.'),
  'pin-standard': entry(
    'I/O standard does not fit the bank',
    'All pins of a bank share one supply. At another supply the levels differ: an input may read wrong, an ' +
      'output may drive too high.',
    "Use the standard of the bank's supply, or a pin of another bank.",
  ),
  'pin-clock': entry(
    'Clock on an ordinary pin',
    'Only some pins reach the clock network. From others the clock takes general wires and arrives at different ' +
      'times in different places.',
    'Move it to a clock pin, marked on the package drawing.',
  ),
};

/** Explanation of a code; null for those whose message says all there is. */
export const explain = (code: string): Explanation | null => own(EXPLANATIONS, code) ?? null;
