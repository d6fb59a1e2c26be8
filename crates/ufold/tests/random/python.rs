//! Python.

use std::fmt::Write;

use super::{Dice, Grower, lacking};

const LOCALS: &[&str] = &["a", "b", "c", "p", "q"];

/// A block as lines without a common indentation.
struct Block<'d> {
    dice: &'d mut Dice,
    out: String,
    depth: usize,
    in_loop: bool,
    /// Variables that are given one value, to tell them apart.
    made: u64,
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
        let _ = writeln!(self.out, "{}{text}", "    ".repeat(self.depth));
    }
    fn statement(&mut self) {
        let deep = self.depth < 4;
        match self.dice.roll(if deep { 20 } else { 9 }) {
            0..=3 => {
                let text = format!("{} = {}", self.dice.pick(LOCALS), self.value(2));
                self.line(&text);
            }
            4 | 5 => {
                let text = format!("{} += {}", self.dice.pick(LOCALS), self.value(1));
                self.line(&text);
            }
            6 => {
                let text = format!("print({}, {})", self.value(1), self.value(0));
                self.line(&text);
            }
            7 if self.dice.chance(50) => {
                self.made += 1;
                let (k, value) = (self.made, self.value(2));
                self.line(&format!("k{k} = {value}"));
                let text = match self.dice.roll(3) {
                    0 => format!("rows.append(k{k})"),
                    1 => format!("{} = {} + k{k}", self.dice.pick(LOCALS), self.value(1)),
                    _ => format!("print(k{k}, {})", self.value(1)),
                };
                self.line(&text);
            }
            7 => {
                let text = format!("ship.{} = {}", self.dice.pick(&["low", "high"]), self.value(1));
                self.line(&text);
            }
            8 if !self.marked && self.dice.chance(40) => {
                self.marked = true;
                let call = format!("_mark({}, {})", self.value(1), self.value(0));
                let text = if self.dice.chance(60) { format!("{} = {call}", self.dice.pick(LOCALS)) } else { call };
                self.line(&text);
            }
            8 => {
                let text = format!("rows.append({})", self.value(1));
                self.line(&text);
            }
            9..=11 => {
                let test = self.test();
                self.line(&format!("if {test}:"));
                self.block(2);
                if self.dice.chance(50) {
                    self.line("else:");
                    self.block(2);
                }
            }
            12 | 13 => {
                let text = format!("for {} in range({}):", self.dice.pick(LOCALS), self.dice.roll(4));
                self.line(&text);
                let around = std::mem::replace(&mut self.in_loop, true);
                self.block(3);
                self.in_loop = around;
            }
            14 => {
                self.line("try:");
                self.block(2);
                let kind = self.dice.pick(&["ZeroDivisionError", "NameError", "IndexError as e"]);
                self.line(&format!("except {kind}:"));
                self.block(2);
                if self.dice.chance(30) {
                    self.line("finally:");
                    self.block(1);
                }
            }
            15 => {
                let text = format!("{} = lambda: {}", self.dice.pick(&["act", "act2"]), self.value(1));
                self.line(&text);
                self.line("print(act())");
            }
            16 if self.in_loop => {
                let text = self.dice.pick(&["break", "continue"]);
                let test = self.test();
                self.line(&format!("if {test}:\n{}{text}", "    ".repeat(self.depth + 1)));
            }
            17 => {
                let text = if self.dice.chance(50) { format!("return {}", self.value(1)) } else { "return".into() };
                let test = self.test();
                match self.dice.roll(10) {
                    0..=2 => self.line(&text),
                    3..=5 => self.line(&format!("if {test}:\n{}{text}", "    ".repeat(self.depth + 1))),
                    _ => {}
                }
                self.line("print(len(rows))");
            }
            18 => {
                let text = format!("if ({} := {}) > 1:", self.dice.pick(LOCALS), self.value(1));
                self.line(&text);
                self.block(1);
            }
            _ => {
                let text = format!("del {}", self.dice.pick(LOCALS));
                if self.dice.chance(15) {
                    self.line(&text);
                }
                self.line("print(sorted(rows))");
            }
        }
    }
}

impl Block<'_> {
    fn value(&mut self, deep: u64) -> String {
        match self.dice.roll(if deep == 0 { 4 } else { 11 }) {
            0 | 1 => self.dice.pick(LOCALS).to_string(),
            2 => self.dice.roll(4).to_string(),
            3 => self.dice.pick(&["ship.low", "ship.high", "LIMIT", "tide"]).to_string(),
            4 => format!("{} + {}", self.value(deep - 1), self.value(deep - 1)),
            5 => format!("{}({})", self.dice.pick(&["rise", "fall", "_late", "_twice"]), self.value(deep - 1)),
            6 => format!("ship.{}({})", self.dice.pick(&["load", "turn"]), self.value(deep - 1)),
            7 => format!("rows[{}]", self.dice.roll(3)),
            8 => format!("({} if {} else {})", self.value(deep - 1), self.test(), self.value(deep - 1)),
            9 => format!("sum(n + {} for n in rows)", self.value(0)),
            _ => format!("10 // {}", self.value(deep - 1)),
        }
    }

    fn test(&mut self) -> String {
        let op = self.dice.pick(&["<", ">", "==", "!="]);
        format!("{} {op} {}", self.value(0), self.value(0))
    }
}

fn block(dice: &mut Dice, depth: usize, statements: u64, in_loop: bool) -> String {
    let made = if depth == 1 { 0 } else { 50 };
    let mut b = Block { dice, out: String::new(), depth, in_loop, made, marked: false };
    for _ in 0..statements {
        b.statement();
    }
    b.out
}

/// The block with a few words changed, as a copy that grew apart would have.
fn vary(dice: &mut Dice, text: &str) -> String {
    let mut out = text.to_string();
    let changes =
        [("ship.low", "ship.high"), ("rise(", "fall("), ("LIMIT", "tide"), ("rows[0]", "rows[1]"), ("10 //", "12 //")];
    for (from, to) in changes {
        if dice.chance(30) {
            out = if dice.chance(50) { out.replace(from, to) } else { out.replacen(from, to, 1) };
        }
    }
    out = lacking(dice, &out, &["print(", "rows."]);
    if dice.chance(40) {
        // another name for a local
        for (from, to) in [
            (" b ", " dock "),
            (" b\n", " dock\n"),
            (" b,", " dock,"),
            ("(b,", "(dock,"),
            ("(b ", "(dock "),
            ("(b)", "(dock)"),
        ] {
            out = out.replace(from, to);
        }
    }
    out
}

const HEAD: &str = "\
LIMIT = 2
tide = 1
log = []


def rise(n):
    global tide
    tide += 1
    log.append(('rise', n))
    return n + 1


def fall(n):
    log.append(('fall', n))
    return n - 1


def _late(n):
    return rise(1) + n


def _mark(n, m):
    log.append(('mark', n))
    mark = n + m
    if mark > 3:
        mark -= rise(m)
    return mark


def _twice(n):
    return n * 2 - n


class Ship:
    def __init__(self):
        self.low = 1
        self.high = 3

    def load(self, n):
        self.low += 1
        return n + self.low

    def turn(self, n):
        self.high -= 1
        return n * self.high

";

const TAIL: &str = "
for f in (first, second):
    for p, q in ((0, 1), (2, 0), (3, 5)):
        rows, ship, tide, log[:] = [1, 2, 3], Ship(), 1, []
        try:
            print('result', f(p, q, rows, ship))
        except Exception as e:
            print('raised', type(e).__name__)
        print(rows, ship.low, ship.high, tide, log)
";

/// The program, and the line on which the first copy begins.
pub fn program(seed: u64) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let depth = 1 + usize::from(dice.chance(30));
    let statements = 3 + dice.roll(4);
    // the copies are in a loop, or the last thing that their functions do
    let (looped, last) = (depth == 2 && dice.chance(60), dice.chance(25));
    let shared = block(&mut dice, depth, statements, looped);
    let other = vary(&mut dice, &shared);
    let mut text = HEAD.to_string();
    let mut line = 0;
    for (name, body) in [("first", &shared), ("second", &other)] {
        let _ = write!(text, "\ndef {name}(p, q, rows, ship):\n    a = p\n    c = 1\n");
        if dice.chance(70) {
            text.push_str("    b = q\n");
        }
        if name == "second" {
            text.push_str("    print('second', p)\n    dock = 4\n");
        }
        if depth == 2 {
            let heads = ["    for turn in range(2):\n", "    for turn in rows[:2]:\n", "    if p != 9:\n"];
            text.push_str(heads[if looped { dice.roll(2) as usize } else { 2 }]);
        }
        if line == 0 {
            line = text.lines().count() + 1;
        }
        text.push_str(body);
        if last {
            text.push('\n');
            continue;
        }
        let more = dice.roll(3);
        let (depth, inside) = if looped && dice.chance(50) { (2, true) } else { (1, false) };
        text.push_str(&block(&mut dice, depth, more, inside));
        let _ = write!(text, "    return ({}, {})\n\n", dice.pick(LOCALS), dice.pick(&["a", "b", "c"]));
    }
    text.push_str(TAIL);
    (text, line)
}

/// Functions that see the variables of a script, and one that gives one of them a value.
const SEES: &[&str] = &[
    "def seen():\n    return (a, c)\n\n\nprint(seen())\n",
    "def given():\n    global c\n    c += 1\n    return c\n\n\nprint(given())\n",
    "shown = lambda: b\nprint(shown())\n",
];

/// A program whose copies stand outside all functions, and the line on which the first one begins.
pub fn script(seed: u64) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let statements = 3 + dice.roll(4);
    let shared = block(&mut dice, 0, statements, false);
    let other = vary(&mut dice, &shared);
    let mut text = HEAD.to_string();
    text.push_str("\np, q, rows, ship = 2, 1, [1, 2, 3], Ship()\na = b = c = dock = p\n");
    let mut line = 0;
    for body in [&shared, &other] {
        if dice.chance(25) {
            let _ = write!(text, "\n\n{}", dice.pick(SEES));
        }
        if line == 0 {
            line = text.lines().count() + 1;
        }
        text.push_str(body);
        let more = dice.roll(3);
        text.push_str(&block(&mut dice, 0, more, false));
        let _ = writeln!(text, "print('after', {}, {})", dice.pick(LOCALS), dice.pick(&["a", "b", "c", "dock"]));
    }
    text.push_str("print(rows, ship.low, ship.high, tide, log)\n");
    (without_returns(&text), line)
}

/// Nothing returns outside functions: the values are printed.
fn without_returns(text: &str) -> String {
    let head = HEAD.lines().count();
    let told = |(n, l): (usize, &str)| match l.trim_start() {
        t if n < head || l.trim_start().len() == l.len() && t.starts_with("def") => l.to_string(),
        "return (a, c)" | "return c" => l.to_string(),
        "return" => l.replace("return", "pass"),
        t if t.starts_with("return ") => l.replace("return ", "print(") + ")",
        _ => l.to_string(),
    };
    text.lines().enumerate().map(|l| told(l) + "\n").collect()
}
