/** The recorder: stores samples of its word around the moment a sequence of conditions has come true. */
export const recorderVerilog = `
// Everything under clk runs on the sampling clock, everything under tck on JTAG's. What crosses is either a toggle through
// two flip-flops, a level that changes rarely, or what rests while it is used.

module nimble_recorder #(
  parameter CORE = 1, parameter W = 4, parameter [W-1:0] LATE = 0, parameter LOG_DEPTH = 4,
  parameter C = 1, parameter S = 1, parameter Q = 0, parameter G = 0, parameter BIT = 2,
  parameter E = 0, parameter X = 0
) (
  input             clk,
  // Where a stepper holds the clock the upper two bits are not taken from here but say what it lets through.
  input  [W-1:0]    probe,
  input             lets,
  input  [(X > 0 ? X : 1)-1:0] state,
  input             tck,
  input  [3:0]      bus_core,
  input  [7:0]      bus_reg,
  input  [4:0]      bus_bit,
  input  [31:0]     bus_wdata,
  input             bus_write,
  input             bus_hold,
  input             stream_load,
  input             stream_next,
  output            bus_rbit,
  output            stream_bit
);
  localparam TICKS = 20;
  localparam T = 1 << C;
  // Bits that tell the stages apart.
  localparam SB = S > 2 ? 2 : 1;
  localparam P = (W + 1) / 2;
  // Of so many pairs a carry goes through in one clock.
  localparam PARTS = (P + 31) / 32;
  // A stored word: the sample; where chosen samples are kept, when it was taken; where the buffer can be divided, whether it
  // triggered.
  localparam B = W + (Q ? 32 : 0) + (G ? 1 : 0);

  // ---- settings, written under tck, at rest while the recorder is armed: one row, words come low first.
  // What is counted to is given as the count before the last step, with a bit for where there is no step before.
  localparam N_BEFORE = 0, N_NONE = LOG_DEPTH, N_WHOLE = N_NONE + 1, N_NEARLY = N_WHOLE + 1, N_TIMES = N_NEARLY + 1;
  localparam N_ONCE = N_TIMES + 17*S, N_ROW = N_ONCE + S, N_CARRY = N_ROW + S, N_TURNED = N_CARRY + C;
  localparam N_WITHIN = N_TURNED + C;
  localparam N_AT_ONCE = N_WITHIN + (S > 1 ? 20*S : 0), N_OTHER = N_AT_ONCE + (S > 1 ? S : 0);
  localparam N_LAST = N_OTHER + (S > 1 ? SB*S : 0), N_SECOND = N_LAST + (S > 1 ? SB : 0);
  localparam N_SOON = N_SECOND + (S > 2 ? S : 0), N_SPAN = N_SOON + (S > 2 ? S : 0);
  localparam N_SEGMENT = N_SPAN + (G ? LOG_DEPTH : 0), N = N_SEGMENT + (G ? 5 : 0);
  reg [N-1:0] settings = 0;
  // What a recorder was built without is not in the row: it reads as 0.
  wire [N+63:0] setting = settings;
  reg [2*P-1:0] row = 0;
  reg [C-1:0] chosen = 0;
  // Toggles that ask: arm, stop, look, trigger now.
  reg [3:0] request = 0;
  reg [4:0] level_1 = 0, level_2 = 0, levels = 0;
  wire selected = bus_core == CORE;
  wire written = selected && bus_write;
  // A row of the chosen comparators' tables, the upper four bits of the register its number; its last word makes it
  // whole.
  wire [2*P-1:0] next_row = {bus_wdata, row} >> 32;
  wire to_comparators = written && bus_reg[2:0] == 2;
  wire to_tables = written && bus_reg[2:0] == 5;
  always @(posedge tck)
    if (written)
      case (bus_reg[2:0])
        3'd0: settings <= {bus_wdata, settings} >> 32;
        3'd1: chosen <= bus_wdata[C-1:0];
        3'd2: row <= next_row;
        // A look that was not taken yet stays the one that is asked for.
        3'd3: request <=
          {request[3] ^ bus_wdata[3], bus_wdata[2] ? ~level_2[4] : request[2], request[1:0] ^ bus_wdata[1:0]};
        default: ;
      endcase
  // Whether a sample is kept, for what the comparators read; the stages have theirs below.
  reg keep_of [0:T-1];
  always @(posedge tck) if (to_tables) keep_of[bus_wdata[4:0]] <= bus_wdata[9];

  // ---- signals of other clocks come in through two registers of this one
  reg [W-1:0] late_1 = 0, late_2 = 0;
  wire [W-1:0] word;
  always @(posedge clk) begin
    late_1 <= word & LATE;
    late_2 <= late_1;
  end
  wire [W-1:0] seen_word = (word & ~LATE) | late_2;

  // ---- sampling; a hit belongs to the sample that is held beside it
  // Two flip-flops against metastability, a third to see the change.
  reg [3:0] asked_1 = 0, asked_2 = 0, asked_3 = 0;
  wire [3:0] asked = asked_2 ^ asked_3;
  // It is armed as late as a sample is on its way to the buffer, so that none is stored that was taken before.
  localparam A = (S > 2 ? 2 : S > 1 ? 1 : 0) + PARTS - 1;
  reg [A:0] arms = 0;
  wire [A+1:0] arm_line = {arms, asked[0]};
  wire arming = arm_line[A];
  wire arming_next = A > 0 && arm_line[A > 0 ? A - 1 : 0];
  // With every sample whether the stepper lets its edge through, and whether it has let none through since arming.
  generate
    if (E != 0) begin : stepped
      reg fresh = 0;
      always @(posedge clk)
        if (asked[0]) fresh <= 1;
        else if (lets) fresh <= 0;
      assign word = {fresh, lets, probe[W-3:0]};
    end
    else begin : free assign word = probe; end
  endgenerate
  reg [W-1:0] sample = 0;
  wire [2*P-1:0] probe_pairs = seen_word, last_pairs = sample;
  wire [C-1:0] hits;
  genvar g;
  generate
    for (g = 0; g < C; g = g + 1) begin : comparators
      nimble_comparator #(.P(P), .PARTS(PARTS)) one (
        .clk(clk), .probe(probe_pairs), .last(last_pairs), .tck(tck), .write(to_comparators && (C == 1 || chosen[g])),
        .at(bus_reg[7:4]), .row(next_row), .carry(setting[N_CARRY + g]), .turned(setting[N_TURNED + g]), .hit(hits[g])
      );
    end
  endgenerate

  // ---- what the comparators read, looked up for every stage; the sample goes along. Of more than two stages each one's
  // answer is held before it is known which one is waited for, and the sample with it.
  reg [W-1:0] sample_2 = 0;
  reg keeps_so = 0;
  wire [W-1:0] beside_hits;
  wire [W-1:0] sample_3;
  wire keeps_then;
  wire [S-1:0] holds;
  generate
    for (g = 0; g < S; g = g + 1) begin : stages
      reg condition_of [0:T-1];
      always @(posedge tck) if (to_tables && bus_wdata[6:5] == g) condition_of[bus_wdata[4:0]] <= bus_wdata[8];
      assign holds[g] = condition_of[hits];
    end
  endgenerate
  always @(posedge clk) begin
    sample_2 <= beside_hits;
    keeps_so <= keep_of[hits];
  end
  generate
    if (PARTS == 1) begin : narrow assign beside_hits = sample; end
    else begin : wide
      reg [W*(PARTS - 1)-1:0] line = 0;
      wire [W*PARTS-1:0] moved = {line, sample};
      always @(posedge clk) line <= moved[W*(PARTS - 1)-1:0];
      assign beside_hits = line[W*(PARTS - 2) +: W];
    end
    if (S > 2) begin : held
      reg [W-1:0] word = 0;
      reg keeps_it = 0;
      always @(posedge clk) begin
        word <= sample_2;
        keeps_it <= keeps_so;
      end
      assign sample_3 = word;
      assign keeps_then = keeps_it;
    end
    else begin : at_once_known
      assign sample_3 = sample_2;
      assign keeps_then = keeps_so;
    end
  endgenerate
  wire keeps = Q == 0 || keeps_then;

  // ---- how far a segment is: it runs until it is full; in between it waits for its trigger, and then has triggered
  reg armed = 0, runs = 0, waiting = 0, triggered = 0, forced = 0;
  // The stage holds in this sample; the next sample that holds completes it; this sample is its last; it is the stage that
  // triggers.
  reg true_now = 0, at_last = 0, late = 0, in_end = 0;
  wire triggers = waiting && (S == 1 ? forced || (true_now && at_last) : true_now && at_last && in_end);

  // ---- the stage that is waited for. Counts are shift registers with feedback: one table does for any length.
  reg [SB-1:0] stage_count = 0;
  wire [SB-1:0] stage = S == 1 ? 0 : stage_count;
  reg [16:0] times = 0;
  reg [19:0] age = 0;
  // With more stages than one, what is asked for by hand comes as if the last one were complete.
  wire by_hand = S > 1 && forced;
  reg next_holds, next_ends, next_once, next_at_once, in_a_row;
  reg [SB-1:0] next;
  wire counted, aged;
  integer s, t;
  // While nothing is waited for the sequence stands at its beginning; so it is behind the sample that triggered.
  wire restarts = !waiting || (S == 1 && arming);
  wire late_now = S > 1 && late;
  wire onward = restarts || (true_now && at_last);
  wire leaves = onward || late_now;
  wire anew = leaves || (!true_now && in_a_row);
  // What each stage goes on with where it is complete, and where it is not, is looked up beside whether it is; the last
  // one that is built has none behind it: once it is complete, it triggers. What the settings alone decide is ready.
  wire [S-1:0] held_conditions, other_conditions;
  wire [SB-1:0] end_stage = S > 1 ? setting[N_LAST +: SB] : 0;
  reg [S-1:0] to_holds, to_once, to_at_once, to_ends;
  reg [5*S-1:0] decided;
  wire [S-1:0] other_once, other_at_once, other_ends, own_ends, keeps_on;
  reg then_holds, then_once, then_at_once, then_ends;
  always @*
    for (s = 0; s < S; s = s + 1) begin
      decided[s] = setting[N_ONCE];
      decided[S + s] = setting[N_AT_ONCE];
      for (t = 1; t < S; t = t + 1)
        if (setting[N_OTHER + SB*s +: SB] == t) begin
          decided[s] = setting[N_ONCE + t];
          decided[S + s] = setting[N_AT_ONCE + t];
        end
      decided[2*S + s] = setting[N_OTHER + SB*s +: SB] == end_stage;
      decided[3*S + s] = end_stage == s;
      // What is counted over begins anew, or is one sample nearer to its last; otherwise it is not asked for.
      decided[4*S + s] = setting[N_ONCE + s] || !setting[N_ROW + s];
    end
  integer i;
  always @* begin
    in_a_row = setting[N_ROW];
    for (i = 0; i < S; i = i + 1) begin
      to_holds[i] = late_now ? other_conditions[i] : held_conditions[i];
      to_once[i] = late_now ? other_once[i] : keeps_on[i] || true_now;
      to_at_once[i] = late_now && other_at_once[i];
      to_ends[i] = late_now ? other_ends[i] : own_ends[i];
      if (stage == i) in_a_row = setting[N_ROW + i];
    end
    // What follows the stage that is complete; the first one while nothing is waited for.
    then_holds = held_conditions[0];
    then_once = setting[N_ONCE];
    then_at_once = setting[N_AT_ONCE];
    then_ends = own_ends[0];
    next = 0;
    for (i = 1; i < S; i = i + 1)
      if (waiting && (stage == i - 1 || (i == S - 1 && stage == i))) begin
        then_holds = held_conditions[i];
        then_once = setting[N_ONCE + i];
        then_at_once = setting[N_AT_ONCE + i];
        then_ends = own_ends[i];
        next = i;
      end
    next_holds = then_holds;
    next_once = then_once;
    next_at_once = then_at_once;
    next_ends = then_ends;
    if (!onward) begin
      next_holds = to_holds[stage];
      next_once = to_once[stage];
      next_at_once = to_at_once[stage] || (aged && !late_now);
      next_ends = to_ends[stage];
      next = late_now ? setting[N_OTHER + SB*stage +: SB] : stage;
    end
  end
  generate
    if (S > 2) begin : many
      // What is counted to is held for the stage that is waited for. In the first sample of a stage it is that of none, and
      // never reached: then it is asked whether the second sample is to be the last.
      reg [16:0] count_to = ~0;
      reg [19:0] age_to = ~0;
      reg first = 1;
      // The opposite of the stage, for what many bits are chosen by.
      reg [SB-1:0] not_stage = ~0;
      wire [SB-1:0] aside = ~not_stage;
      reg [S-1:0] holds_so = 0, other_so = 0;
      reg [16:0] counts_of;
      reg [19:0] ages_of;
      reg [S-1:0] other_holds;
      reg is_second, is_soon;
      reg [5*S-1:0] ready = 0;
      always @(posedge tck) ready <= decided;
      assign {keeps_on, own_ends, other_ends, other_at_once, other_once} = ready;
      integer i, j;
      always @* begin
        counts_of = setting[N_TIMES +: 17];
        ages_of = setting[N_WITHIN +: 20];
        is_second = setting[N_SECOND];
        is_soon = setting[N_SOON];
        for (i = 1; i < S; i = i + 1)
          if (aside == i) begin
            counts_of = setting[N_TIMES + 17*i +: 17];
            ages_of = setting[N_WITHIN + 20*i +: 20];
            is_second = setting[N_SECOND + i];
            is_soon = setting[N_SOON + i];
          end
        for (i = 0; i < S; i = i + 1) begin
          other_holds[i] = holds[0];
          for (j = 1; j < S; j = j + 1) if (setting[N_OTHER + SB*i +: SB] == j) other_holds[i] = holds[j];
        end
      end
      always @(posedge clk) begin
        count_to <= leaves ? ~0 : counts_of;
        age_to <= leaves ? ~0 : ages_of;
        first <= leaves;
        not_stage <= ~next;
        holds_so <= holds | {S{by_hand && !triggers}};
        other_so <= other_holds | {S{by_hand && !triggers}};
      end
      assign held_conditions = holds_so;
      assign other_conditions = other_so;
      assign counted = times == count_to || (first && is_second);
      assign aged = age == age_to || (first && is_soon);
    end
    else begin : few
      wire [S-1:0] counts, ages, others;
      for (g = 0; g < S; g = g + 1) begin : each
        assign counts[g] = stage == g && times == setting[N_TIMES + 17*g +: 17];
        assign ages[g] = S > 1 && stage == g && age == setting[N_WITHIN + 20*g +: 20];
        assign others[g] = setting[N_OTHER + g] && S > 1 ? holds[S-1] : holds[0];
      end
      assign {keeps_on, own_ends, other_ends, other_at_once, other_once} = decided;
      assign held_conditions = holds;
      assign other_conditions = others;
      assign counted = |counts;
      assign aged = |ages;
    end
  endgenerate
  reg by_hand_then = 0;
  wire hand = S > 2 ? by_hand_then : by_hand;
  always @(posedge clk) begin
    by_hand_then <= by_hand && !triggers;
    true_now <= next_holds || (S == 2 && by_hand);
    stage_count <= next;
    in_end <= next_ends || hand;
    if (anew) times <= 0;
    else if (true_now) times <= {times[15:0], ~(times[16] ^ times[13])};
    age <= leaves ? 0 : {age[18:0], ~(age[19] ^ age[16])};
    if (anew || (true_now && counted) || hand) at_last <= next_once || hand;
    late <= next_at_once;
  end

  // ---- what is stored. The count is of samples before the trigger until there are enough, then of those behind it.
  reg nearly = 0;
  reg [LOG_DEPTH-1:0] count = 0;
  reg [LOG_DEPTH-1:0] write_at = 0;
  reg [4:0] segment = 0;
  // A segment has two samples at least: what is known of it a clock late is known in time.
  reg more = 0, whole_more = 0;
  reg [31:0] stamp = 0;
  wire [LOG_DEPTH-1:0] span = G ? setting[N_SPAN +: LOG_DEPTH] : ~0;
  // The sample that triggers is stored in any case.
  wire storing = ((runs && keeps) || triggers) && !(G && arming);
  wire counts = runs && keeps && !waiting;
  // Nothing comes behind the trigger where all of a segment is before it.
  wire fills = triggered && keeps && nearly;
  wire begins = arming || (triggers ? whole_more : G && fills && more);
  // What is stored goes into the buffer one clock later.
  reg [B-1:0] stored = 0;
  reg stores = 0, goes_on = 0;
  // Within a segment the address goes round; with the next one it goes on behind it.
  wire [LOG_DEPTH-1:0] moving = goes_on ? ~0 : span;
  wire [LOG_DEPTH-1:0] after = (goes_on ? write_at | span : write_at) + 1;
  reg [B-1:0] buffer [0:(1 << LOG_DEPTH) - 1];
  generate
    if (Q != 0 && G != 0) begin : with_both always @(posedge clk) stored <= {triggers, stamp, sample_3}; end
    else if (Q != 0) begin : with_time always @(posedge clk) stored <= {stamp, sample_3}; end
    else if (G != 0) begin : with_mark always @(posedge clk) stored <= {triggers, sample_3}; end
    else begin : alone always @(posedge clk) stored <= sample_3; end
  endgenerate
  always @(posedge clk) begin
    asked_1 <= request;
    asked_2 <= asked_1;
    asked_3 <= asked_2;
    arms <= arm_line[A:0];
    sample <= seen_word;
    stamp <= arming ? 0 : stamp + 1;
    stores <= storing;
    goes_on <= begins;
    more <= segment != setting[N_SEGMENT +: 5];
    whole_more <= G && setting[N_WHOLE] && segment != setting[N_SEGMENT +: 5];
    if (stores) buffer[write_at] <= stored;
    if (G && arming) write_at <= 0;
    else if (stores) write_at <= G ? (moving & after) | (~moving & write_at) : after;
    if (begins) count <= 0;
    else if (counts) count <= count + 1;
    if (triggers) nearly <= setting[N_NEARLY];
    else if (counts) nearly <= count[LOG_DEPTH-1:2] == span[LOG_DEPTH-1:2] && count[1:0] == 1;
    // Of several stages the sequence goes back to its beginning in the clock before it is armed.
    if (S > 1 && arming_next) waiting <= 0;
    else if (begins) waiting <= setting[N_NONE];
    else if (triggers || asked[1]) waiting <= 0;
    else if (counts && !triggered && count == setting[N_BEFORE +: LOG_DEPTH]) waiting <= 1;
    if (begins || asked[1]) triggered <= 0;
    else if (triggers) triggered <= 1;
    if (arming) runs <= 1;
    else if (asked[1] || (triggers ? setting[N_WHOLE] && !whole_more : fills && !(G && more))) runs <= 0;
    if (arming) armed <= 1;
    else if (asked[1]) armed <= 0;
    if (arming || triggers) forced <= 0;
    else if (asked[3]) forced <= runs;
    if (begins) segment <= arming ? 0 : segment + 1;
  end
  wire full = armed && !runs;

  // ---- what is read once, a fixed number of clocks behind the first trigger
  wire [(X > 0 ? X : 1)-1:0] once;
  generate
    if (X > 0) begin : at_trigger
      reg takes = 0, taken = 0;
      reg [X-1:0] held = 0;
      always @(posedge clk) begin
        takes <= triggers && !taken;
        if (arming) taken <= 0;
        else if (triggers) taken <= 1;
        if (takes) held <= state;
      end
      assign once = held;
    end
    else begin : nothing_once assign once = 0; end
  endgenerate

  // ---- how often each comparator was true since arming; what is asked for rests until it is asked for again
  wire [24*C-1:0] seen_held;
  reg [C-1:0] hits_held = 0;
  reg [SB-1:0] stage_held = 0;
  reg [4:0] segment_held = 0;
  reg [LOG_DEPTH-1:0] count_held = 0;
  reg [TICKS-1:0] ticks = 0, ticks_held = 0;
  generate
    for (g = 0; g < C; g = g + 1) begin : counters
      reg [23:0] seen = 0, held = 0;
      always @(posedge clk) begin
        if (arming) seen <= 0;
        else if (runs && hits[g]) seen <= {seen[22:0], ~(seen[23] ^ seen[22] ^ seen[21] ^ seen[16])};
        if (asked[2]) held <= seen;
      end
      assign seen_held[24*g +: 24] = held;
    end
  endgenerate
  always @(posedge clk) begin
    if (asked[2]) begin
      hits_held <= hits;
      stage_held <= stage;
      segment_held <= segment;
      count_held <= count;
      ticks_held <= ticks;
    end
    ticks <= {ticks[18:0], ~(ticks[19] ^ ticks[16])};
  end

  // ---- back under tck, held while it is read
  reg [4:0] level = 0;
  always @(posedge clk) level <= {asked_3[2], armed, waiting, triggered, full};
  always @(posedge tck) begin
    level_1 <= level;
    level_2 <= level_1;
    if (bus_hold) levels <= level_2;
  end

  // ---- what is read, picked bit by bit where it stands: the kind, then a row of all there is, what was read once last
  localparam ROW = 6 + TICKS + 25*C + 2*LOG_DEPTH + (S > 1 ? SB : 0) + (G ? 5 : 0);
  // Of more than two stages the row of settings is another one.
  localparam [31:0] KIND = 32'h52430006 + (S > 2);
  localparam R = $clog2((ROW + X + 31) / 32 + 1);
  wire [ROW-1:0] told;
  generate
    if (S > 1 && G != 0) begin : tells_both assign told = {segment_held, stage_held, always_told}; end
    else if (S > 1) begin : tells_stage assign told = {stage_held, always_told}; end
    else if (G != 0) begin : tells_segment assign told = {segment_held, always_told}; end
    else begin : tells assign told = always_told; end
  endgenerate
  wire [5 + TICKS + 25*C + 2*LOG_DEPTH:0] always_told =
    {write_at, count_held, hits_held, seen_held, ticks_held, request[2], levels};
  wire [(32 << R) - 1:0] registers = {once, told, KIND};
  assign bus_rbit = selected && registers[{bus_reg[R-1:0], bus_bit}];

  // ---- read-out: one bit a tck; the next word is fetched while the last bit of one leaves
  reg [LOG_DEPTH-1:0] read_at = 0;
  reg [B-1:0] fetched = 0;
  reg [BIT-1:0] bit_at = 0;
  wire sent = selected && stream_next;
  wire ending = bit_at == B - 1;
  always @(posedge tck) begin
    if (stream_load || (sent && ending)) fetched <= buffer[read_at];
    if (written && bus_reg[2:0] == 4) read_at <= bus_wdata[LOG_DEPTH-1:0];
    else if (sent && bit_at == 0) read_at <= read_at + 1;
    if (stream_load || (sent && ending)) bit_at <= 0;
    else if (sent) bit_at <= bit_at + 1;
  end
  assign stream_bit = selected && fetched[bit_at];
endmodule
`;
