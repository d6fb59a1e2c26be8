//! C#: properties that run code, structs that are copied, `ref` and `out`, patterns, and values that fit by their size.

use std::fmt::Write;

use super::{Dice, Grower, lacking};

const LOCALS: &[&str] = &["a", "b", "c"];

struct Block<'d> {
    dice: &'d mut Dice,
    out: String,
    depth: usize,
    in_loop: bool,
    made: u64,
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
        match self.dice.roll(if self.depth < 5 { 23 } else { 8 }) {
            0..=7 => self.simple(),
            8..=10 => {
                let test = self.test();
                let more = self.dice.chance(50);
                self.body(&format!("if ({test}) {{"), 2, if more { "} else {" } else { "}" });
                if more {
                    self.block(2);
                    self.line("}");
                }
            }
            11 | 12 => {
                let around = std::mem::replace(&mut self.in_loop, true);
                let i = format!("i{}", self.fresh());
                let head = match self.dice.roll(3) {
                    0 => format!("foreach (int {i} in rows) {{"),
                    1 => format!("for (int {i} = 0; {i} < {}; {i}++) {{", self.dice.roll(4)),
                    _ => format!("foreach (var {i} in new List<int>(all)) {{"),
                };
                self.line(&head);
                let used = format!("    {} += {i};", self.written());
                self.line(&used);
                self.block(2);
                self.line("}");
                self.in_loop = around;
            }
            13 => {
                let e = format!("e{}", self.fresh());
                self.line("try {");
                let risky = format!("    {} += Risky({});", self.written(), self.value(1));
                self.line(&risky);
                self.block(2);
                let guard = self.dice.pick(&["", " when (tide > 2)"]);
                self.line(&format!("}} catch (ArgumentException {e}){guard} {{"));
                self.line(&format!("    log.Add({e}.Message);"));
                self.block(1);
                let last = self.dice.chance(30);
                self.line(if last { "} finally {" } else { "}" });
                if last {
                    self.block(1);
                    self.line("}");
                }
            }
            14 => {
                let (k, value) = (self.fresh(), self.value(1));
                self.line(&format!("int f{k} = {value};"));
                let text = match self.dice.roll(3) {
                    0 => format!("Func<int, int> g{k} = x => x + f{k}; log.Add(\"g\" + g{k}(2));"),
                    1 => format!("Action h{k} = () => {} += f{k}; h{k}();", self.written()),
                    _ => format!("all.RemoveAll(x => x == f{k});"),
                };
                text.split_inclusive("; ").for_each(|part| self.line(part.trim()));
            }
            15 if self.in_loop => {
                let (text, test) = (self.dice.pick(&["break", "continue"]), self.test());
                self.line(&format!("if ({test}) {text};"));
            }
            16 | 17 => {
                let (text, test) = (format!("return {};", self.value(1)), self.test());
                if self.dice.chance(40) {
                    self.line(&format!("if ({test}) {text}"));
                }
                self.line("log.Add(\"\" + all.Count);");
            }
            18 => {
                let subject = self.value(0);
                self.line(&format!("switch ({subject}) {{"));
                for n in 0..2 {
                    self.body(&format!("    case {n}: {{"), 2, "    }");
                    self.line("        break;");
                }
                self.body("    default: {", 1, "    }");
                self.line("        break;");
                self.line("}");
            }
            19 => {
                let (k, used) = (self.fresh(), self.written());
                let text = match self.dice.roll(4) {
                    0 => format!("int o{k}; Split({}, out o{k}); {used} += o{k};", self.value(0)),
                    1 => format!("Split({}, out {used});", self.value(0)),
                    2 => format!("Raise(ref {used}, {});", self.value(0)),
                    _ => format!("if (int.TryParse(text, out var t{k})) {used} += t{k};"),
                };
                text.split_inclusive("; ").for_each(|part| self.line(part.trim()));
            }
            20 => {
                let (k, low) = (self.fresh(), self.dice.roll(3));
                self.body(&format!("if (any is int p{k} && p{k} > {low}) {{"), 2, "}");
            }
            21 => {
                let value = self.value(0);
                let text = match self.dice.roll(4) {
                    0 => format!("spot.X = {value};"),
                    1 => format!("spot.Move({value});"),
                    2 => format!("log.Add(\"spot\" + spot.X + {value});"),
                    _ => format!("({}, {}) = ({value}, {});", LOCALS[0], LOCALS[1], self.value(0)),
                };
                self.line(&text);
            }
            _ => {
                let text = format!("lock (ship) {{ ship.Low += {}; }}", self.value(0));
                self.line(&text);
            }
        }
    }
}

impl Block<'_> {
    fn written(&mut self) -> &'static str {
        LOCALS[self.dice.roll(3) as usize]
    }

    fn fresh(&mut self) -> u64 {
        self.made += 1;
        self.made
    }

    fn value(&mut self, deep: u64) -> String {
        match self.dice.roll(if deep == 0 { 5 } else { 15 }) {
            0 | 1 => self.dice.pick(LOCALS).to_string(),
            2 => self.dice.roll(4).to_string(),
            3 => {
                self.dice.pick(&["ship.Low", "ship.High", "Limit", "tide", "this.n", "n", "p", "q", "Next"]).to_string()
            }
            4 => self.dice.pick(&["(int)Kind.Shut", "text.Length", "'c'", "all.Count", "ship.Next"]).to_string(),
            5 => format!("{} + {}", self.value(deep - 1), self.value(deep - 1)),
            6 => format!("{}({})", self.dice.pick(&["Rise", "Fall", "Late", "Twice"]), self.value(deep - 1)),
            7 => format!("ship.{}({})", self.dice.pick(&["Load", "Turn"]), self.value(deep - 1)),
            8 => format!("rows[{}]", self.dice.roll(3)),
            9 => format!("({} ? {} : {})", self.test(), self.value(deep - 1), self.value(deep - 1)),
            10 => format!("(int)wide * {}", self.value(0)),
            11 => format!("Math.Max({}, {})", self.value(deep - 1), self.value(0)),
            12 => format!("$\"{{text}}{{{}}}\".Length", self.value(0)),
            13 => format!("(word?.Length ?? {})", self.value(0)),
            _ => format!("{} / {}", self.value(deep - 1), self.dice.pick(&["2", "Limit", "q"])),
        }
    }

    fn test(&mut self) -> String {
        match self.dice.roll(6) {
            0 => format!("{} > 1 && {} != 3", self.value(0), self.value(0)),
            1 => "any is int".into(),
            _ => format!("{} {} {}", self.value(0), self.dice.pick(&["<", ">", "==", "!="]), self.value(0)),
        }
    }

    fn simple(&mut self) {
        let text = match self.dice.roll(16) {
            0..=2 => format!("{} = {};", self.written(), self.value(2)),
            3 => format!("{} {} {};", self.written(), self.dice.pick(&["+=", "-=", "*="]), self.value(1)),
            4 => format!("{}++;", self.written()),
            5 => format!("Console.WriteLine({} + \" \" + {});", self.value(1), self.value(0)),
            6 => format!("ship.{} = {};", self.dice.pick(&["Low", "High", "Next"]), self.value(1)),
            7 => format!("all.Add({});", self.value(1)),
            8 => format!("{} += {};", self.dice.pick(&["tide", "n", "this.n", "ship.Low", "Next"]), self.value(1)),
            9 if self.dice.chance(10) => format!("text = text + {};", self.value(0)),
            10 => format!("byte y{} = {};", self.fresh(), self.dice.roll(5)),
            11 => format!("log.Add({} + text);", self.value(1)),
            12 => format!("small = small + {};", self.dice.roll(4)),
            _ => {
                let k = self.fresh();
                let word = self.dice.pick(&["int", "long", "var", "object"]);
                let value = self.value(2);
                let used = match self.dice.roll(3) {
                    0 => format!("Console.WriteLine(k{k} + \"x\" + {});", self.value(0)),
                    1 => format!("Show(k{k});"),
                    _ => format!("log.Add(\"k\" + k{k});"),
                };
                self.line(&format!("{word} k{k} = {value};"));
                used
            }
        };
        self.line(&text);
    }
}

fn block(dice: &mut Dice, statements: u64, depth: usize, made: u64, in_loop: bool) -> String {
    let mut b = Block { dice, out: String::new(), depth, in_loop, made };
    for _ in 0..statements {
        b.statement();
    }
    b.out
}

/// The block with a few words changed, as a copy that grew apart would have.
fn vary(dice: &mut Dice, text: &str) -> String {
    let mut out = text.to_string();
    let changes = [
        ("ship.Load(", "ship.Turn("),
        ("Rise(", "Fall("),
        ("Limit", "tide"),
        ("rows[0]", "rows[1]"),
        ("this.n", "Limit"),
        ("Kind.Shut", "Kind.Open"),
        ("> 1", "> 7"),
        ("+= 2", "+= 3"),
        ("small + 1", "small + 2"),
        ("\" \"", "\"-\""),
    ];
    for (from, to) in changes {
        if dice.chance(30) {
            out = if dice.chance(50) { out.replace(from, to) } else { out.replacen(from, to, 1) };
        }
    }
    lacking(dice, &out, &["Console.", "log."])
}

const HEAD: &str = "\
using System;
using System.Collections.Generic;

class Base
{
    protected int Twice(int k)
    {
        return k * 2 - k;
    }
}

struct Spot
{
    public int X;
    public void Move(int k) { X += k; }
}

class Ship
{
    public int Low = 1;
    public int High = 3;
    public int Next { get { return ++Low; } set { High = value; } }

    public int Load(int k)
    {
        Low += 1;
        return k + Low;
    }

    public int Turn(int k)
    {
        High -= 1;
        return k * High;
    }
}

class Desk : Base
{
    enum Kind { Open, Shut }

    const int Limit = 2;
    static int tide = 1;
    static readonly List<string> log = new List<string>();
    private int n = 5;

    int Next { get { return ++n; } set { n = value * 2; } }

    static int Rise(int k)
    {
        tide += 1;
        log.Add(\"rise\" + k);
        return k + 1;
    }

    static int Fall(int k)
    {
        log.Add(\"fall\" + k);
        return k - 1;
    }

    int Late(int k)
    {
        n += 1;
        return Rise(1) + k;
    }

    static int Risky(int k)
    {
        if (k > 4)
        {
            throw new ArgumentException(\"risky\" + k);
        }
        return k;
    }

    static bool Split(int k, out int half) { half = k / 2; return k > 2; }
    static void Raise(ref int k, int by) { k += by; }
    static void Show(int k) { log.Add(\"int\" + k); }
    static void Show(long k) { log.Add(\"long\" + k); }
    static void Show(object k) { log.Add(\"object\" + k); }

";

const TAIL: &str = "\
    static void Main()
    {
        var pairs = new[] { new[] { 0, 1 }, new[] { 2, 0 }, new[] { 3, 5 } };
        foreach (var pair in pairs)
        {
            for (int k = 0; k < 2; k++)
            {
                tide = 1;
                log.Clear();
                int[] rows = { 1, 2, 3 };
                var ship = new Ship();
                var all = new List<int> { 4, 5 };
                var desk = new Desk();
                try
                {
                    int r = k == 0 ? desk.First(pair[0], pair[1], rows, ship, all, pair[0], null) : desk.Second(pair[0], pair[1], rows, ship, all, \"x\", \"w\");
                    Console.WriteLine(\"result \" + r);
                }
                catch (Exception e)
                {
                    Console.WriteLine(\"raised \" + e.GetType());
                }
                Console.WriteLine(string.Join(\",\", all) + \" \" + ship.Low + \" \" + ship.High + \" \" + tide + \" \" + desk.n);
                Console.WriteLine(string.Join(\",\", log));
            }
        }
    }
}
";

/// The program, and the line on which the first copy begins.
pub fn program(seed: u64) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let inner = dice.chance(30);
    let statements = 3 + dice.roll(4);
    let looped = inner && dice.chance(60);
    let shared = block(&mut dice, statements, 2 + usize::from(inner), 0, looped);
    let other = vary(&mut dice, &shared);
    let mut text = HEAD.to_string();
    let mut line = 0;
    for (name, body) in [("First", &shared), ("Second", &other)] {
        let _ = writeln!(
            text,
            "    int {name}(int p, int q, int[] rows, Ship ship, List<int> all, object any, string word)\n    {{"
        );
        text.push_str("        int a = p;\n        int b = q;\n        int c = 1;\n        long wide = 3;\n");
        text.push_str("        uint small = 7;\n        string text = \"4\";\n        var spot = new Spot();\n");
        if inner {
            let heads = ["foreach (int turn in new[] { 0, 1 }) {", "for (int turn = 0; turn < 2; turn++) {"];
            let _ = writeln!(text, "        {}", if looped { dice.pick(&heads) } else { "if (p != 9) {" });
        }
        if line == 0 {
            line = text.lines().count() + 1;
        }
        text.push_str(body);
        let more = dice.roll(3);
        text.push_str(if inner { "        }\n" } else { "" });
        text.push_str(&block(&mut dice, more, 2, 90, false));
        let results = if dice.chance(80) { ["p", "q"] } else { [dice.pick(LOCALS), dice.pick(LOCALS)] };
        let _ = write!(
            text,
            "        return {} + {} + (int)wide + text.Length + spot.X + (int)small;\n    }}\n\n",
            results[0], results[1]
        );
    }
    text.push_str(TAIL);
    (text, line)
}
