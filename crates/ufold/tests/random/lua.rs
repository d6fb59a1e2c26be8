//! Lua.

use std::fmt::Write;

use super::{Dice, Grower, lacking};

const LOCALS: &[&str] = &["a", "b", "c", "p", "q"];

/// A block as lines without a common indentation.
struct Block<'d> {
    dice: &'d mut Dice,
    out: String,
    depth: usize,
    in_loop: bool,
    /// Names that were made, to tell them apart.
    made: u64,
    marked: bool,
}

impl Grower for Block<'_> {
    fn dice(&mut self) -> &mut Dice {
        self.dice
    }
    fn depth(&mut self) -> &mut usize {
        &mut self.depth
    }
    fn line(&mut self, text: &str) {
        let _ = writeln!(self.out, "{}{text}", "  ".repeat(self.depth));
    }
    fn statement(&mut self) {
        match self.dice.roll(if self.depth < 4 { 21 } else { 9 }) {
            0..=8 => self.simple(),
            9..=11 => {
                let test = self.test();
                let more = self.dice.chance(50);
                self.body(&format!("if {test} then"), 2, if more { "else" } else { "end" });
                if more {
                    self.block(2);
                    self.line("end");
                }
            }
            12 | 13 => {
                let around = std::mem::replace(&mut self.in_loop, true);
                self.made += 1;
                let i = format!("i{}", self.made);
                let head = match self.dice.roll(4) {
                    0 => format!(
                        "for _, {i} in ipairs(rows) do {} = {i}; if {i} > 4 then break end",
                        self.dice.pick(LOCALS)
                    ),
                    1 => format!("for {i} = 0, {} do", self.dice.roll(4)),
                    2 => format!("for {i} = 3, {}, -1 do", self.dice.roll(4)),
                    _ => format!("for {i}, v{i} in pairs({{ 5, 6 }}) do {} = v{i};", self.dice.pick(LOCALS)),
                };
                self.body(&head, 3, "end");
                self.in_loop = around;
            }
            14 => {
                let around = std::mem::replace(&mut self.in_loop, true);
                self.made += 1;
                let k = self.made;
                self.line(&format!("local k{k} = 0"));
                self.body("repeat", 2, &format!("  k{k} = k{k} + 1"));
                let test = self.test();
                self.line(&format!("  local done{k} = k{k} > 2 or {test}"));
                self.line(&format!("until done{k}"));
                self.in_loop = around;
            }
            15 => {
                self.made += 1;
                let (k, value) = (self.made, self.value(1));
                self.line(&format!("local act{k} = function(n) return {value}, n end"));
                self.line(&format!("print(act{k}(1))"));
            }
            16 if self.in_loop => {
                let test = self.test();
                self.line(&format!("if {test} then break end"));
            }
            17 => {
                let text = match self.dice.roll(4) {
                    0 => format!("return {}", self.value(1)),
                    1 => format!("return {}, {}", self.value(0), self.value(0)),
                    2 => format!("return both({})", self.value(0)),
                    _ => "return".into(),
                };
                let test = self.test();
                if self.dice.chance(70) {
                    self.line(&format!("if {test} then {text} end"));
                }
                self.line("print(#rows)");
            }
            18 => {
                let (one, other) = (self.value(1), self.value(1));
                let text = format!("{}, {} = {one}, {other}", self.dice.pick(&["a", "b"]), self.dice.pick(&["c", "p"]));
                self.line(&text);
            }
            19 => {
                let name = self.dice.pick(LOCALS);
                // from here on it is another variable
                let value = self.value(1);
                self.line(&format!("local {name} = {value}"));
                let text = format!("print({name}, {})", self.dice.pick(LOCALS));
                self.line(&text);
            }
            _ => {
                let test = self.test();
                self.made += 1;
                let k = self.made;
                self.line("do");
                self.body(&format!("  if {test} then goto on{k} end"), 2, &format!("  ::on{k}::"));
                self.line("end");
            }
        }
    }
}

impl Block<'_> {
    fn value(&mut self, deep: u64) -> String {
        match self.dice.roll(if deep == 0 { 4 } else { 13 }) {
            0 | 1 => self.dice.pick(LOCALS).to_string(),
            2 => self.dice.roll(4).to_string(),
            3 => self.dice.pick(&["ship.low", "ship.high", "LIMIT", "tide", "self.n"]).to_string(),
            4 => format!("{} + {}", self.value(deep - 1), self.value(deep - 1)),
            5 => format!("{}({})", self.dice.pick(&["rise", "fall", "late", "twice", "both"]), self.value(deep - 1)),
            6 => format!("ship:{}({})", self.dice.pick(&["load", "turn"]), self.value(deep - 1)),
            7 => format!("(rows[{}] or 0)", self.dice.roll(3)),
            8 => format!("({} and {} or {})", self.test(), self.value(deep - 1), self.value(deep - 1)),
            9 => format!("(both({}))", self.value(0)),
            10 => format!("#{{ {}, both({}) }}", self.value(0), self.value(0)),
            11 => format!("select(\"#\", {}, both({}))", self.value(0), self.value(deep - 1)),
            _ => format!("#({} .. \"-x\")", self.value(0)),
        }
    }

    fn test(&mut self) -> String {
        let op = self.dice.pick(&["<", ">", "==", "~="]);
        format!("{} {op} {}", self.value(0), self.value(0))
    }

    fn simple(&mut self) {
        match self.dice.roll(11) {
            0..=2 => {
                let text = format!("{} = {}", self.dice.pick(LOCALS), self.value(2));
                self.line(&text);
            }
            3 => {
                let name = self.dice.pick(LOCALS);
                let text = format!("{name} = {name} {} {}", self.dice.pick(&["+", "-"]), self.value(1));
                self.line(&text);
            }
            4 => {
                let text = format!(
                    "{}, {} = both({})",
                    self.dice.pick(&["a", "b"]),
                    self.dice.pick(&["c", "q"]),
                    self.value(1)
                );
                self.line(&text);
            }
            5 | 6 => {
                let text = format!("print({}, {})", self.value(0), self.value(1));
                self.line(&text);
            }
            7 => {
                let text = format!("ship.{} = {}", self.dice.pick(&["low", "high"]), self.value(1));
                self.line(&text);
            }
            8 if !self.marked => {
                self.marked = true;
                let call = format!("mark({}, {})", self.value(1), self.value(0));
                let text = if self.dice.chance(60) { format!("{} = {call}", self.dice.pick(LOCALS)) } else { call };
                self.line(&text);
            }
            8 | 9 => {
                let text =
                    self.dice.pick(&["rows[#rows + 1] = ", "rows[1] = ", "tide = "]).to_string() + &self.value(1);
                self.line(&text);
            }
            _ => {
                self.made += 1;
                let (k, value) = (self.made, self.value(2));
                self.line(&format!("local k{k} = {value}"));
                let text = match self.dice.roll(3) {
                    0 => format!("rows[#rows + 1] = k{k}"),
                    1 => format!("{} = {} + k{k}", self.dice.pick(LOCALS), self.value(1)),
                    _ => format!("print(k{k}, {})", self.value(1)),
                };
                self.line(&text);
            }
        }
    }
}

fn block(dice: &mut Dice, statements: u64, depth: usize, made: u64, in_loop: bool) -> String {
    let mut b = Block { dice, out: String::new(), depth, in_loop, made, marked: false };
    for _ in 0..statements {
        b.statement();
    }
    b.out
}

/// The block with a few words changed, as a copy that grew apart would have.
fn vary(dice: &mut Dice, text: &str) -> String {
    let mut out = text.to_string();
    let changes = [
        ("ship.low", "ship.high"),
        ("rise(", "both("),
        ("fall(", "rise("),
        ("LIMIT", "tide"),
        ("rows[1]", "rows[2]"),
        ("self.n", "LIMIT"),
        ("both(", "twice("),
        ("a,", "both(a),"),
        (", 1)", ", both(1))"),
    ];
    for (from, to) in changes {
        if dice.chance(25) {
            out = if dice.chance(50) { out.replace(from, to) } else { out.replacen(from, to, 1) };
        }
    }
    out = lacking(dice, &out, &["print", "rows["]);
    if dice.chance(40) {
        // another name for a local
        let ends = [" ", "\n", ",", ")", "+"];
        for (before, after) in [" ", "(", "{"].iter().flat_map(|x| ends.iter().map(move |y| (x, y))) {
            out = out.replace(&format!("{before}b{after}"), &format!("{before}dock{after}"));
        }
    }
    out
}

const HEAD: &str = "\
local LIMIT = 2
tide = 1
local log = {}

local function rise(n)
  tide = tide + 1
  log[#log + 1] = \"rise\" .. tostring(n)
  return n + 1
end

local function fall(n)
  log[#log + 1] = \"fall\" .. tostring(n)
  return n - 1
end

local function both(n)
  log[#log + 1] = \"both\" .. tostring(n)
  return n, n + 1
end

local function late(n)
  return rise(1) + n
end

local function mark(n, m)
  log[#log + 1] = \"mark\" .. tostring(n)
  local marked = n + m
  if marked > 3 then
    marked = marked - rise(m)
  end
  return marked
end

local function twice(n)
  return n * 2 - n
end

local Ship = {}
Ship.__index = Ship

function Ship:load(n)
  self.low = self.low + 1
  return n + self.low
end

function Ship:turn(n)
  self.high = self.high - 1
  return n * self.high, n
end

local Port = { n = 5 }

";

const TAIL: &str = "\
for _, f in ipairs({ \"first\", \"second\" }) do
  for _, given in ipairs({ { 0, 1 }, { 2, 0 }, { 3, 5 } }) do
    local rows, ship = { 1, 2, 3 }, setmetatable({ low = 1, high = 3 }, Ship)
    tide = 1
    while #log > 0 do log[#log] = nil end
    -- what is said of an error has its line, and names of variables
    local result = table.pack(pcall(Port[f], Port, given[1], given[2], rows, ship))
    print(result[1] and \"result\" or \"raised\", result[1] and result.n, result[1] and result[2], result[1] and result[3])
    print(table.concat(log, \" \", 1, math.min(#log, 30)))
    for i = 1, math.min(#rows, 30) do io.write(tostring(rows[i]), \" \") end
    print(ship.low, ship.high, tide)
  end
end
";

/// The program, and the line on which the first copy begins.
pub fn program(seed: u64) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let inner = dice.chance(30);
    let statements = 3 + dice.roll(4);
    // the copies are in a loop, or the last thing that their functions do
    let (looped, last) = (inner && dice.chance(60), dice.chance(25));
    let depth = 1 + usize::from(inner);
    let shared = block(&mut dice, statements, depth, 0, looped);
    let other = vary(&mut dice, &shared);
    let mut text = HEAD.to_string();
    let mut line = 0;
    for (name, body) in [("first", &shared), ("second", &other)] {
        let head = dice.pick(&["function Port:%(p, q, rows, ship)", "Port.% = function(self, p, q, rows, ship)"]);
        let _ = write!(text, "{}\n  local a, c = p, 1\n", head.replace('%', name));
        text.push_str(if dice.chance(80) { "  local b = q\n" } else { "  local b = 0\n" });
        text.push_str(if name == "second" { "  print(\"second\", p)\n" } else { "" });
        text.push_str("  local dock = 4\n");
        if inner {
            let _ = writeln!(text, "  {}", if looped { "for turn = 1, 2 do" } else { "if p ~= 9 then" });
        }
        if line == 0 {
            line = text.lines().count() + 1;
        }
        text.push_str(body);
        let more = if last { 0 } else { dice.roll(3) };
        let inside = looped && dice.chance(50);
        let rest = block(&mut dice, more, depth.min(1 + usize::from(inside)), 90, inside);
        let end = if inner { "  end\n" } else { "" };
        text.push_str(&if inside { format!("{rest}{end}") } else { format!("{end}{rest}") });
        if !last {
            let _ = writeln!(text, "  return {}, {}, dock", dice.pick(LOCALS), dice.pick(&["a", "b", "c"]));
        }
        text.push_str("end\n\n");
    }
    text.push_str(TAIL);
    (text, line)
}

/// A program whose copies stand outside all functions, and the line on which the first one begins.
pub fn script(seed: u64) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let statements = 3 + dice.roll(4);
    let shared = block(&mut dice, statements, 0, 0, false);
    let other = vary(&mut dice, &shared);
    let mut text =
        HEAD.to_string() + "local p, q, rows, ship = 2, 1, { 1, 2, 3 }, setmetatable({ low = 1, high = 3 }, Ship)\n";
    text.push_str("local a, b, c, dock = p, q, 1, 4\n");
    let mut line = 0;
    for (made, body) in [(90, &shared), (95, &other)] {
        if dice.chance(20) {
            text.push_str("local function seen() return a, c end\nprint(seen())\n");
        }
        if line == 0 {
            line = text.lines().count() + 1;
        }
        text.push_str(body);
        let more = dice.roll(3);
        text.push_str(&block(&mut dice, more, 0, made, false));
        let _ = writeln!(text, "print(\"after\", {}, {})", dice.pick(LOCALS), dice.pick(&["a", "b", "c", "dock"]));
    }
    text.push_str("print(#rows, ship.low, ship.high, tide, table.concat(log, \" \"))\n");
    let head = HEAD.lines().count();
    // there is no object, and a return ends the file
    let told = |(n, l): (usize, &str)| match l.split_once("then return") {
        _ if n < head => l.to_string(),
        Some((test, _)) => format!("{test}then print(\"left\") end"),
        None => l.replace("self.n", "tide"),
    };
    (text.lines().enumerate().map(|l| told(l) + "\n").collect(), line)
}
