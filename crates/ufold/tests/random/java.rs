//! Java: all is declared with its type, nothing stands behind a jump, and locals have a value before they are read.

use std::fmt::Write;

use super::{Dice, Grower, lacking};

const LOCALS: &[&str] = &["a", "b", "c"];

struct Block<'d> {
    dice: &'d mut Dice,
    out: String,
    depth: usize,
    in_loop: bool,
    made: u64,
    /// The local that gets values: a function gives one.
    target: &'static str,
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
        match self.dice.roll(if self.depth < 5 { 22 } else { 8 }) {
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
                    0 => format!("for (int {i} : rows) {{"),
                    1 => format!("for (int {i} = 0; {i} < {}; {i}++) {{", self.dice.roll(4)),
                    _ => format!("for (Integer {i} : new ArrayList<>(all)) {{"),
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
                let head = format!(
                    "}} catch ({} {e}) {{",
                    self.dice.pick(&["RuntimeException", "Exception", "IOException | RuntimeException"])
                );
                self.line("try {");
                let risky = format!("    {} += risky({});", self.written(), self.value(1));
                self.line(&risky);
                self.block(2);
                self.line(&head);
                self.line(&format!("    log.add({e}.getMessage());"));
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
                let text = match self.dice.roll(2) {
                    0 => format!("IntUnaryOperator g{k} = x -> x + f{k}; log.add(\"g\" + g{k}.applyAsInt(2));"),
                    _ => format!("all.removeIf(x -> x == f{k});"),
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
                self.line("log.add(\"\" + all.size());");
            }
            18 => {
                let subject = self.value(0);
                self.line(&format!("switch ({subject}) {{"));
                for n in 0..2 {
                    let tail = if self.dice.chance(60) { "        break;" } else { "        ;" };
                    self.body(&format!("    case {n}: {{"), 2, "    }");
                    self.line(tail);
                }
                self.body("    default: {", 1, "    }");
                self.line("}");
            }
            19 => {
                let (k, subject) = (self.fresh(), self.value(0));
                self.line(&format!("int w{k} = switch ({subject}) {{"));
                let (one, two, three) = (self.value(1), self.value(1), self.value(0));
                self.line(&format!("    case 0 -> {one};"));
                self.line(&format!("    case 1, 2 -> {{ log.add(\"w\"); yield {two}; }}"));
                self.line(&format!("    default -> {three};"));
                self.line("};");
                let used = format!("{} += w{k};", self.written());
                self.line(&used);
            }
            20 => {
                let (k, low) = (self.fresh(), self.dice.roll(3));
                self.body(&format!("if (any instanceof Integer o{k} && o{k} > {low}) {{"), 2, "}");
            }
            _ => {
                let text = format!("synchronized (ship) {{ ship.low += {}; }}", self.value(0));
                self.line(&text);
            }
        }
    }
}

impl Block<'_> {
    /// Nearly always the one.
    fn written(&mut self) -> &'static str {
        if self.dice.chance(4) { LOCALS[self.dice.roll(3) as usize] } else { self.target }
    }

    fn fresh(&mut self) -> u64 {
        self.made += 1;
        self.made
    }

    fn value(&mut self, deep: u64) -> String {
        match self.dice.roll(if deep == 0 { 5 } else { 14 }) {
            0 | 1 => self.dice.pick(LOCALS).to_string(),
            2 => self.dice.roll(4).to_string(),
            3 => self.dice.pick(&["ship.low", "ship.high", "LIMIT", "tide", "this.n", "n", "p", "q"]).to_string(),
            4 => self.dice.pick(&["Kind.OPEN.ordinal()", "text.length()", "'c'", "all.size()"]).to_string(),
            5 => format!("{} + {}", self.value(deep - 1), self.value(deep - 1)),
            6 => format!("{}({})", self.dice.pick(&["rise", "fall", "late", "twice"]), self.value(deep - 1)),
            7 => format!("ship.{}({})", self.dice.pick(&["load", "turn"]), self.value(deep - 1)),
            8 => format!("rows[{}]", self.dice.roll(3)),
            9 => format!("({} ? {} : {})", self.test(), self.value(deep - 1), self.value(deep - 1)),
            10 => format!("(int) wide * {}", self.value(0)),
            11 => format!("Math.max({}, {})", self.value(deep - 1), self.value(0)),
            12 => format!("(text + {}).length()", self.value(0)),
            _ => format!("{} / {}", self.value(deep - 1), self.dice.pick(&["2", "LIMIT", "q"])),
        }
    }

    fn test(&mut self) -> String {
        match self.dice.roll(6) {
            0 => format!("{} > 1 && {} != 3", self.value(0), self.value(0)),
            1 => "any instanceof Integer".into(),
            _ => format!("{} {} {}", self.value(0), self.dice.pick(&["<", ">", "==", "!="]), self.value(0)),
        }
    }

    fn simple(&mut self) {
        let text = match self.dice.roll(15) {
            0..=2 => format!("{} = {};", self.written(), self.value(2)),
            3 => format!("{} {} {};", self.written(), self.dice.pick(&["+=", "-=", "*="]), self.value(1)),
            4 => format!("{}++;", self.written()),
            5 => format!("System.out.println({} + \" \" + {});", self.value(1), self.value(0)),
            6 => format!("ship.{} = {};", self.dice.pick(&["low", "high"]), self.value(1)),
            7 => format!("all.add({});", self.value(1)),
            8 => format!("{} += {};", self.dice.pick(&["tide", "n", "this.n", "ship.low"]), self.value(1)),
            9 if self.dice.chance(10) => format!("text = text + {};", self.value(0)),
            10 => format!("byte y{} = {};", self.fresh(), self.dice.roll(5)),
            11 => format!("log.add({} + text);", self.value(1)),
            _ => {
                let k = self.fresh();
                let word = self.dice.pick(&["int", "final int", "long", "var"]);
                let value = self.value(2);
                let used = match self.dice.roll(3) {
                    0 => format!("System.out.println(k{k} + {});", self.value(0)),
                    1 => format!("all.add((int) k{k});"),
                    _ => format!("log.add(\"k\" + k{k});"),
                };
                self.line(&format!("{word} k{k} = {value};"));
                used
            }
        };
        self.line(&text);
    }
}

fn block(dice: &mut Dice, statements: u64, depth: usize, made: u64, in_loop: bool) -> String {
    let target = LOCALS[dice.roll(3) as usize];
    let mut b = Block { dice, out: String::new(), depth, in_loop, made, target };
    for _ in 0..statements {
        b.statement();
    }
    b.out
}

/// The block with a few words changed, as a copy that grew apart would have.
fn vary(dice: &mut Dice, text: &str) -> String {
    let mut out = text.to_string();
    let changes = [
        ("ship.load(", "ship.turn("),
        ("rise(", "fall("),
        ("LIMIT", "tide"),
        ("rows[0]", "rows[1]"),
        ("this.n", "LIMIT"),
        ("OPEN", "SHUT"),
        ("> 1", "> 7"),
        ("+= 2", "+= 3"),
        ("\" \"", "\"-\""),
    ];
    for (from, to) in changes {
        if dice.chance(30) {
            out = if dice.chance(50) { out.replace(from, to) } else { out.replacen(from, to, 1) };
        }
    }
    lacking(dice, &out, &["System.out", "log."])
}

const HEAD: &str = "\
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.function.IntUnaryOperator;

class Main extends Base {
    enum Kind { OPEN, SHUT }

    static final int LIMIT = 2;
    static int tide = 1;
    static final List<String> log = new ArrayList<>();
    private int n = 5;

    static int rise(int k) {
        tide += 1;
        log.add(\"rise\" + k);
        return k + 1;
    }

    static int fall(int k) {
        log.add(\"fall\" + k);
        return k - 1;
    }

    int late(int k) {
        n += 1;
        return rise(1) + k;
    }

    static int risky(int k) throws IOException {
        if (k > 4) {
            throw new IOException(\"risky\" + k);
        }
        return k;
    }

    static class Ship {
        int low = 1;
        int high = 3;

        int load(int k) {
            low += 1;
            return k + low;
        }

        int turn(int k) {
            high -= 1;
            return k * high;
        }
    }

";

const TAIL: &str = "\
    public static void main(String[] args) {
        int[][] pairs = {{0, 1}, {2, 0}, {3, 5}};
        for (int[] pair : pairs) {
            for (int k = 0; k < 2; k++) {
                tide = 1;
                log.clear();
                int[] rows = {1, 2, 3};
                Ship ship = new Ship();
                List<Integer> all = new ArrayList<>(List.of(4, 5));
                Main m = new Main();
                try {
                    int r = k == 0 ? m.first(pair[0], pair[1], rows, ship, all, pair[0]) : m.second(pair[0], pair[1], rows, ship, all, \"x\");
                    System.out.println(\"result \" + r);
                } catch (RuntimeException | IOException e) {
                    System.out.println(\"raised \" + e.getClass());
                }
                System.out.println(all + \" \" + ship.low + \" \" + ship.high + \" \" + tide + \" \" + m.n + \" \" + log);
            }
        }
    }
}

class Base {
    int twice(int k) {
        return k * 2 - k;
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
    for (name, body) in [("first", &shared), ("second", &other)] {
        let _ = writeln!(
            text,
            "    int {name}(int p, int q, int[] rows, Ship ship, List<Integer> all, Object any) throws IOException {{"
        );
        text.push_str("        int a = p;\n        int b = q;\n        int c = 1;\n        long wide = 3;\n        String text = \"t\";\n");
        if inner {
            let heads = ["for (int turn : new int[] {0, 1}) {", "for (int turn = 0; turn < 2; turn++) {"];
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
        let _ =
            write!(text, "        return {} + {} + (int) wide + text.length();\n    }}\n\n", results[0], results[1]);
    }
    text.push_str(TAIL);
    (text, line)
}
