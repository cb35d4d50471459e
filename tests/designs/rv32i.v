// A processor of the open RISC-V instruction set RV32I, one instruction a clock cycle, for tests. Program and data lie in
// one memory; a store to the highest word ends the run and leaves its value at `result`.
module rv32i #(parameter WORDS = 256, parameter PROGRAM = "program.hex") (
  input             clk,
  input             rst,
  output reg        done,
  output reg [31:0] result
);
  localparam BITS = $clog2(WORDS);
  reg [31:0] memory [0:WORDS-1];
  reg [31:0] x [0:31];
  reg [31:0] pc;
  initial $readmemh(PROGRAM, memory);

  wire [31:0] instruction = memory[pc[BITS+1:2]];
  wire [6:0] opcode = instruction[6:0];
  wire [4:0] rd = instruction[11:7], rs1 = instruction[19:15], rs2 = instruction[24:20];
  wire [2:0] funct3 = instruction[14:12];
  wire       alternate = instruction[30];

  wire [31:0] imm_i = {{20{instruction[31]}}, instruction[31:20]};
  wire [31:0] imm_s = {{20{instruction[31]}}, instruction[31:25], instruction[11:7]};
  wire [31:0] imm_b = {{19{instruction[31]}}, instruction[31], instruction[7], instruction[30:25], instruction[11:8], 1'b0};
  wire [31:0] imm_u = {instruction[31:12], 12'b0};
  wire [31:0] imm_j = {{11{instruction[31]}}, instruction[31], instruction[19:12], instruction[20], instruction[30:21], 1'b0};

  localparam LUI = 7'h37, AUIPC = 7'h17, JAL = 7'h6f, JALR = 7'h67, BRANCH = 7'h63, LOAD = 7'h03, STORE = 7'h23,
             IMMEDIATE = 7'h13, REGISTER = 7'h33;

  wire [31:0] a = rs1 == 0 ? 0 : x[rs1];
  wire [31:0] b = rs2 == 0 ? 0 : x[rs2];
  wire [31:0] second = opcode == REGISTER ? b : imm_i;

  function [31:0] alu(input [2:0] operation, input other, input [31:0] l, input [31:0] r);
    case (operation)
      3'd0: alu = other ? l - r : l + r;
      3'd1: alu = l << r[4:0];
      3'd2: alu = {31'b0, $signed(l) < $signed(r)};
      3'd3: alu = {31'b0, l < r};
      3'd4: alu = l ^ r;
      3'd5: if (other) alu = $signed(l) >>> r[4:0]; else alu = l >> r[4:0];
      3'd6: alu = l | r;
      3'd7: alu = l & r;
    endcase
  endfunction

  wire subtracts = opcode == REGISTER ? alternate : funct3 == 3'd5 && alternate;
  wire [31:0] computed = alu(funct3, subtracts, a, second);

  reg taken;
  always @* case (funct3)
    3'd0: taken = a == b;
    3'd1: taken = a != b;
    3'd4: taken = $signed(a) < $signed(b);
    3'd5: taken = $signed(a) >= $signed(b);
    3'd6: taken = a < b;
    3'd7: taken = a >= b;
    default: taken = 1'b0;
  endcase

  wire [31:0] address = a + (opcode == STORE ? imm_s : imm_i);
  wire [31:0] word = memory[address[BITS+1:2]];
  wire [31:0] shifted = word >> {address[1:0], 3'b0};
  reg [31:0] loaded;
  always @* case (funct3)
    3'd0: loaded = {{24{shifted[7]}}, shifted[7:0]};
    3'd1: loaded = {{16{shifted[15]}}, shifted[15:0]};
    3'd4: loaded = {24'b0, shifted[7:0]};
    3'd5: loaded = {16'b0, shifted[15:0]};
    default: loaded = word;
  endcase

  wire [31:0] following = pc + 4;
  reg [31:0] value;
  always @* case (opcode)
    LUI: value = imm_u;
    AUIPC: value = pc + imm_u;
    JAL, JALR: value = following;
    LOAD: value = loaded;
    default: value = computed;
  endcase
  wire writes = opcode != BRANCH && opcode != STORE;

  wire [3:0] lanes = funct3 == 3'd0 ? 4'b0001 << address[1:0] : funct3 == 3'd1 ? 4'b0011 << address[1:0] : 4'b1111;
  wire [31:0] stored = b << {address[1:0], 3'b0};
  wire ends = opcode == STORE && address[BITS+1:2] == WORDS - 1;

  always @(posedge clk)
    if (rst) begin
      pc <= 0;
      done <= 0;
      result <= 0;
    end else if (!done) begin
      pc <= opcode == JAL ? pc + imm_j
          : opcode == JALR ? (a + imm_i) & ~32'd1
          : opcode == BRANCH && taken ? pc + imm_b
          : following;
      if (ends) begin
        done <= 1;
        result <= b;
      end
    end
  always @(posedge clk) if (!rst && !done && writes && rd != 0) x[rd] <= value;
  // Each byte of a word has an enable of its own.
  genvar i;
  generate for (i = 0; i < 4; i = i + 1) begin : lane
    always @(posedge clk) if (!rst && !done && opcode == STORE && lanes[i])
      memory[address[BITS+1:2]][8*i +: 8] <= stored[8*i +: 8];
  end endgenerate
endmodule
