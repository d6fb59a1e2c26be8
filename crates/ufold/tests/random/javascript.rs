//! JavaScript.

use std::fmt::Write;

use super::{Dice, Grower, lacking};

const LOCALS: &[&str] = &["a", "b", "c", "p", "q"];

/// A block as lines without a common indentation.
struct Block<'d> {
    dice: &'d mut Dice,
    out: String,
    depth: usize,
    in_loop: bool,
    /// Constants that were declared, to tell them apart.
    made: u64,
    /// The program is to be compiled with its types.
    typed: bool,
    /// `maybe` is known to be there.
    narrowed: bool,
    /// The function of several statements was called.
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
        match self.dice.roll(if self.depth < 4 { 20 } else { 8 }) {
            0..=7 => self.simple(),
            8..=10 => {
                let test = self.test();
                let tail = if self.dice.chance(50) { "}" } else { "} else {" };
                self.body(&format!("if ({test}) {{"), 2, tail);
                if self.out.ends_with("else {\n") {
                    self.block(2);
                    self.line("}");
                }
            }
            11 | 12 => {
                let around = std::mem::replace(&mut self.in_loop, true);
                self.made += 1;
                let i = format!("i{}", self.made);
                let head = match self.dice.roll(3) {
                    0 => format!("for (const {i} of rows.slice(0, 3)) {{ {} = {i};", self.dice.pick(LOCALS)),
                    1 => format!("for (let {i} = 0; {i} < {}; {i}++) {{", self.dice.roll(4)),
                    _ => format!("for (var {i} = 0; {i} < {}; {i}++) {{", self.dice.roll(4)),
                };
                self.body(&head, 3, "}");
                self.in_loop = around;
            }
            13 => {
                self.body("try {", 2, "} catch (e) {");
                self.block(2);
                let last = self.dice.chance(30);
                self.line(if last { "} finally {" } else { "}" });
                if last {
                    self.block(1);
                    self.line("}");
                }
            }
            14 => {
                let value = self.value(1);
                let text = format!("const act{} = () => {value};", self.made);
                self.line(&text);
                let call = format!("console.log(act{}());", self.made);
                self.made += 1;
                self.line(&call);
            }
            15 if self.in_loop => {
                let (text, test) = (self.dice.pick(&["break", "continue"]), self.test());
                self.line(&format!("if ({test}) {text};"));
            }
            16 => {
                let text = if self.dice.chance(50) { format!("return {};", self.value(1)) } else { "return;".into() };
                let test = self.test();
                match self.dice.roll(10) {
                    0 | 1 => self.line(&text),
                    2..=4 => self.line(&format!("if ({test}) {text}")),
                    _ => {}
                }
                self.line("console.log(rows.length);");
            }
            17 => {
                let subject = self.value(0);
                self.line(&format!("switch ({subject}) {{"));
                let (open, close) = if self.dice.chance(50) { (" {", "  }") } else { ("", "  ;") };
                for n in 0..2 {
                    let tail = if self.dice.chance(60) { "  break;" } else { "  ;" };
                    self.body(&format!("  case {n}:{open}"), 2, tail);
                    self.line(close);
                }
                self.body(&format!("  default:{open}"), 2, close);
                self.line("}");
            }
            18 => {
                let (one, other) = (self.value(1), self.value(1));
                let text =
                    format!("[{}, {}] = [{one}, {other}];", self.dice.pick(&["a", "b"]), self.dice.pick(&["c", "p"]));
                self.line(&text);
            }
            _ => {
                let names = [self.dice.pick(LOCALS), self.dice.pick(LOCALS)];
                self.line(&format!("console.log(JSON.stringify({{ {}, x: {} }}));", names[0], names[1]));
            }
        }
    }
}

impl Block<'_> {
    fn value(&mut self, deep: u64) -> String {
        match self.dice.roll(if deep == 0 { 4 } else { 13 }) {
            0 | 1 => self.dice.pick(LOCALS).to_string(),
            2 => self.dice.roll(4).to_string(),
            3 if self.typed => {
                let member = if self.narrowed { "maybe.low" } else { "names.length" };
                self.dice.pick(&["ship.low", "ship.high", "LIMIT", "tide", "this.n", member, member]).to_string()
            }
            3 => self.dice.pick(&["ship.low", "ship.high", "LIMIT", "tide", "this.n"]).to_string(),
            4 => format!("{} + {}", self.value(deep - 1), self.value(deep - 1)),
            5 => format!("{}({})", self.dice.pick(&["rise", "fall", "late", "twice"]), self.value(deep - 1)),
            6 => format!("ship.{}({})", self.dice.pick(&["load", "turn"]), self.value(deep - 1)),
            7 => format!("rows[{}]", self.dice.roll(3)),
            8 => format!("({} ? {} : {})", self.test(), self.value(deep - 1), self.value(deep - 1)),
            9 => format!("rows.reduce((s, n) => s + n * {}, 0)", self.value(0)),
            10 if self.typed => format!("(other?.low ?? {})", self.value(deep - 1)),
            10 => format!("ship?.{}?.({})", self.dice.pick(&["load", "none"]), self.value(deep - 1)),
            11 => format!("({} {} {})", self.value(deep - 1), self.dice.pick(&["&&", "||", "??"]), self.value(0)),
            _ => format!("`${{{}}}-x`.length", self.value(deep - 1)),
        }
    }

    fn test(&mut self) -> String {
        let op = self.dice.pick(&["<", ">", "===", "!=="]);
        let left = self.value(0);
        // two different numbers are never equal, says the compiler
        let op = if self.typed && left.parse::<u64>().is_ok() { "<" } else { op };
        format!("{left} {op} {}", self.value(0))
    }

    fn simple(&mut self) {
        let text = match self.dice.roll(if self.typed { 11 } else { 9 }) {
            9 => format!("names.push(`${{{}}} of ${{{}}}`);", self.value(0), self.value(1)),
            10 => {
                self.made += 1;
                let value =
                    self.dice.pick(&["names[0]", "names.join('-')", "[a, c]", "{ low: a, high: c }", "other?.high"]);
                let k = self.made;
                format!("const v{k} = {value}; console.log('v', v{k});")
            }
            0..=2 => format!("{} = {};", self.dice.pick(LOCALS), self.value(2)),
            3 => format!("{} {} {};", self.dice.pick(LOCALS), self.dice.pick(&["+=", "-=", "||="]), self.value(1)),
            4 => format!("{}++;", self.dice.pick(LOCALS)),
            5 => format!("console.log({}, {});", self.value(1), self.value(0)),
            6 => format!("ship.{} = {};", self.dice.pick(&["low", "high"]), self.value(1)),
            7 if !self.marked && self.dice.chance(40) => {
                self.marked = true;
                let call = format!("mark({}, {});", self.value(1), self.value(0));
                if self.dice.chance(60) { format!("{} = {call}", self.dice.pick(LOCALS)) } else { call }
            }
            7 => format!("rows.push({});", self.value(1)),
            _ => {
                self.made += 1;
                let word = self.dice.pick(&["const", "let", "var"]);
                let (k, value) = (self.made, self.value(2));
                let text = match self.dice.roll(3) {
                    0 => format!("rows.push(k{k});"),
                    1 => format!("{} = {} + k{k};", self.dice.pick(LOCALS), self.value(1)),
                    _ => format!("console.log(k{k}, {});", self.value(1)),
                };
                format!("{word} k{k} = {value}; {text}")
            }
        };
        // one statement a line
        for part in text.split_inclusive("; ") {
            self.line(part.trim());
        }
    }
}

/// What is around a block.
#[derive(Clone, Copy)]
struct Around {
    depth: usize,
    made: u64,
    in_loop: bool,
    typed: bool,
    narrowed: bool,
}

fn block(dice: &mut Dice, statements: u64, around: Around) -> String {
    let Around { depth, made, in_loop, typed, narrowed } = around;
    let mut b = Block { dice, out: String::new(), depth, in_loop, made, typed, narrowed, marked: false };
    for _ in 0..statements {
        b.statement();
    }
    b.out
}

/// The block with a few words changed, as a copy that grew apart would have.
fn vary(dice: &mut Dice, text: &str) -> String {
    let mut out = text.to_string();
    let changes =
        [("ship.low", "ship.high"), ("rise(", "fall("), ("LIMIT", "tide"), ("rows[0]", "rows[1]"), ("this.n", "LIMIT")];
    for (from, to) in changes {
        if dice.chance(30) {
            out = if dice.chance(50) { out.replace(from, to) } else { out.replacen(from, to, 1) };
        }
    }
    out = lacking(dice, &out, &["console.", "rows."]);
    if dice.chance(40) {
        // another name for a local
        let ends = [" ", ";", ",", ")", "+", "]"];
        for (before, after) in [" ", "(", "[", "{"].iter().flat_map(|x| ends.iter().map(move |y| (x, y))) {
            out = out.replace(&format!("{before}b{after}"), &format!("{before}dock{after}"));
        }
    }
    out
}

const HEAD: &str = "\
const LIMIT = 2;
let tide = 1;
const log = [];

function rise(n) {
  tide += 1;
  log.push(['rise', n]);
  return n + 1;
}

function fall(n) {
  log.push(['fall', n]);
  return n - 1;
}

function late(n) {
  return rise(1) + n;
}

function mark(n, m) {
  log.push(['mark', n]);
  let marked = n + m;
  if (marked > 3) {
    marked -= rise(m);
  }
  return marked;
}

function twice(n) {
  return n * 2 - n;
}

class Ship {
  constructor() {
    this.low = 1;
    this.high = 3;
  }
  load(n) {
    this.low += 1;
    return n + this.low;
  }
  turn(n) {
    this.high -= 1;
    return n * this.high;
  }
}

class Port {
  constructor() {
    this.n = 5;
  }
";

const TAIL: &str = "}

for (const f of ['first', 'second']) {
  for (const [p, q] of [[0, 1], [2, 0], [3, 5]]) {
    const [rows, ship] = [[1, 2, 3], new Ship()];
    tide = 1;
    log.length = 0;
    try {
      console.log('result', new Port()[f](p, q, rows, ship));
    } catch (e) {
      console.log('raised', e.name);
    }
    console.log(rows.slice(0, 30), ship.low, ship.high, tide, JSON.stringify(log.slice(0, 30)));
  }
}
";

/// The program, and the line on which the first copy begins.
pub fn program(seed: u64) -> (String, usize) {
    made(seed, false)
}

/// The same with types.
pub fn typed_program(seed: u64) -> (String, usize) {
    let (text, line) = made(seed, true);
    let types = [
        ("const LIMIT = 2;", "const LIMIT: number = 2;"),
        ("const log = [];", "const log: [string, number][] = [];"),
        ("function rise(n)", "function rise(n: number): number"),
        ("function fall(n)", "function fall(n: number): number"),
        ("function late(n)", "function late(n: number): number"),
        ("function mark(n, m)", "function mark(n: number, m: number): number"),
        ("function twice(n)", "function twice(n: number): number"),
        ("class Ship {", "class Ship { low: number; high: number;"),
        ("  load(n)", "  load(n: number): number"),
        ("  turn(n)", "  turn(n: number): number"),
        ("class Port {", "class Port { n: number;"),
        (
            "(p, q, rows, ship) {",
            "(p: number, q: number, rows: number[], ship: Ship, names: string[], other?: Ship, maybe: Ship | null = null) {",
        ),
        ("['first', 'second']", "['first', 'second'] as const"),
        ("[[0, 1], [2, 0], [3, 5]]", "[[0, 1], [2, 0], [3, 5]] as const"),
        ("const [rows, ship] = [[1, 2, 3], new Ship()];", "const rows = [1, 2, 3], ship = new Ship(), names = ['x'];"),
        ("(p, q, rows, ship));", "(p, q, rows, ship, names, p ? ship : undefined, q ? ship : null));"),
        (
            "catch (e) {\n      console.log('raised', e.name);",
            "catch (e) {\n      console.log('raised', (e as Error).name);",
        ),
        ("    var b;\n", "    var b = 0;\n"),
    ];
    let typed = types.iter().fold(text, |t, (from, to)| t.replace(from, to));
    (typed + "export {};\n", line)
}

fn made(seed: u64, typed: bool) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let inner = dice.chance(30);
    let statements = 3 + dice.roll(4);
    // the copies are in a loop, or the last thing that their functions do
    let (looped, last) = (inner && dice.chance(60), dice.chance(25));
    let narrowed = typed && inner && !looped;
    let around = Around { depth: 2 + usize::from(inner), made: 0, in_loop: looped, typed, narrowed };
    let shared = block(&mut dice, statements, around);
    let other = vary(&mut dice, &shared);
    let mut text = HEAD.to_string();
    let mut line = 0;
    for (name, body) in [("first", &shared), ("second", &other)] {
        let word = dice.pick(&["let", "var"]);
        let _ = write!(text, "  {name}(p, q, rows, ship) {{\n    {word} a = p;\n    {word} c = 1;\n");
        let b = if dice.chance(70) { "    let b = q;\n" } else { "    var b;\n" };
        text.push_str(b);
        text.push_str(if name == "second" { "    console.log('second', p);\n" } else { "" });
        text.push_str("    let dock = 4;\n");
        if inner {
            let heads = ["for (const turn of [0, 1]) {", "for (let turn = 0; turn < 2; turn++) {"];
            let test = if narrowed { "if (maybe !== null) {" } else { "if (p !== 9) {" };
            let _ = writeln!(text, "    {}", if looped { dice.pick(&heads) } else { test });
        }
        if line == 0 {
            line = text.lines().count() + 1;
        }
        text.push_str(body);
        let more = dice.roll(3);
        let inside = looped && dice.chance(50);
        let after = Around { depth: 2, made: 90, in_loop: inside, narrowed: false, ..around };
        let rest = block(&mut dice, if last { 0 } else { more }, after);
        let end = if inner { "    }\n" } else { "" };
        text.push_str(&if inside { format!("{rest}{end}") } else { format!("{end}{rest}") });
        if last {
            text.push_str("  }\n\n");
            continue;
        }
        let _ = write!(text, "    return [{}, {}, dock];\n  }}\n\n", dice.pick(LOCALS), dice.pick(&["a", "b", "c"]));
    }
    text.push_str(TAIL);
    (text, line)
}

/// Functions that see the variables of a script, and one that gives one of them a value.
const SEES: &[&str] = &[
    "function seen() {\n  return [a, c];\n}\nconsole.log(seen());\n",
    "function given() {\n  c += 1; return c;\n}\nconsole.log(given());\n",
    "const shown = () => b;\nconsole.log(shown());\n",
];

/// A program whose copies stand outside all functions, and the line on which the first one begins.
pub fn script(seed: u64) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let statements = 3 + dice.roll(4);
    let around = Around { depth: 0, made: 0, in_loop: false, typed: false, narrowed: false };
    let shared = block(&mut dice, statements, around);
    let other = vary(&mut dice, &shared);
    let mut text = HEAD.to_string() + "}\n\nlet [p, q, rows, ship] = [2, 1, [1, 2, 3], new Ship()];\n";
    let word = dice.pick(&["let", "var"]);
    let _ = writeln!(text, "{word} a = p, b = q, c = 1, dock = 4;");
    let mut line = 0;
    for (made, body) in [(90, &shared), (95, &other)] {
        if dice.chance(15) {
            text.push_str(dice.pick(SEES));
        }
        if line == 0 {
            line = text.lines().count() + 1;
        }
        text.push_str(body);
        let more = dice.roll(3);
        text.push_str(&block(&mut dice, more, Around { made, ..around }));
        let _ = writeln!(text, "console.log('after', {}, {});", dice.pick(LOCALS), dice.pick(&["a", "b", "c", "dock"]));
    }
    text.push_str("console.log(rows.slice(0, 30), ship.low, ship.high, tide, JSON.stringify(log.slice(0, 30)));\n");
    let head = HEAD.lines().count();
    // nothing returns here, and there is no object
    let told = |(n, l): (usize, &str)| match l.trim_start() {
        _ if n <= head => l.to_string(),
        t if t.starts_with("return [a, c]") || t.starts_with("c += 1; return") => l.to_string(),
        t if t.starts_with("return") => format!("console.log({});", t["return".len()..].trim_end_matches(';')),
        _ => l.replace("this.n", "tide"),
    };
    (text.lines().enumerate().map(|l| told(l) + "\n").collect(), line)
}
