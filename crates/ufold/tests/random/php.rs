//! PHP: arrays that are values, references, what closures take, jumps over several loops.

use std::fmt::Write;

use super::{Dice, Grower, lacking};

const LOCALS: &[&str] = &["$a", "$b", "$c", "$p", "$q"];
const LISTS: &[&str] = &["$rows", "$more", "$ship->seen", "$this->kept"];

/// A block as lines without a common indentation.
struct Block<'d> {
    dice: &'d mut Dice,
    out: String,
    depth: usize,
    /// Loops around it.
    loops: u64,
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
        let _ = writeln!(self.out, "{}{text}", "    ".repeat(self.depth));
    }
    fn statement(&mut self) {
        match self.dice.roll(if self.depth < 4 { 22 } else { 9 }) {
            0..=8 => self.simple(),
            9..=11 => {
                let test = self.test();
                let more = self.dice.chance(50);
                self.body(&format!("if ({test}) {{"), 2, if more { "} else {" } else { "}" });
                if more {
                    self.block(2);
                    self.line("}");
                }
            }
            12..=14 => {
                self.loops += 1;
                self.made += 1;
                let i = format!("$i{}", self.made);
                let list = self.dice.pick(&["$rows", "[5, 6]", "$more"]);
                let head = match self.dice.roll(5) {
                    0 => format!("foreach ({list} as {}) {{", self.dice.pick(LOCALS)),
                    1 => format!("foreach ({list} as {i} => {}) {{", self.dice.pick(LOCALS)),
                    2 if self.dice.chance(30) => format!("foreach ($rows as &{i}) {{ {i} = ({i}) + 1;"),
                    2 => format!("foreach ({list} as {i}) {{"),
                    3 => format!("for ({i} = 0; {i} < {}; {i}++) {{", self.dice.roll(4)),
                    _ => format!("{i} = 0; while ({i}++ < {}) {{", self.dice.roll(3)),
                };
                self.body(&head, 3, "}");
                self.loops -= 1;
            }
            15 => {
                self.made += 1;
                let (k, x) = (self.made, self.dice.pick(LOCALS));
                let text = match self.dice.roll(3) {
                    0 => format!("$act{k} = function ($n) use ({x}) {{ {x}++; return {x} + $n; }};"),
                    1 => format!("$act{k} = function ($n) use (&{x}) {{ {x} += $n; return {x}; }};"),
                    _ => format!("$act{k} = fn($n) => {x} + $n;"),
                };
                self.line(&text);
                let text = format!("echo $act{k}({}), ' ';", self.value(0));
                self.line(&text);
            }
            16 | 17 if self.loops > 0 => {
                let test = self.test();
                let many = if self.loops > 1 && self.dice.chance(40) { " 2" } else { "" };
                let word = self.dice.pick(&["break", "continue"]);
                self.line(&format!("if ({test}) {word}{many};"));
            }
            18 => {
                let text = match self.dice.roll(3) {
                    0 => format!("return {};", self.value(1)),
                    1 => format!("return both({});", self.value(0)),
                    _ => "return;".into(),
                };
                let test = self.test();
                self.line(&format!("if ({test}) {text}"));
            }
            19 if self.dice.chance(30) => {
                self.made += 1;
                let (k, x) = (self.made, self.dice.pick(&["$a", "$c", "$rows[0]", "$ship->low"]));
                self.line(&format!("$r{k} = &{x};"));
                let value = self.value(1);
                self.line(&format!("$r{k} = {value};"));
                if self.dice.chance(50) {
                    self.line(&format!("unset($r{k});"));
                }
            }
            20 => {
                let subject = self.value(0);
                self.loops += 1;
                self.line(&format!("switch ({subject}) {{"));
                self.line("    case 1:");
                self.block(2);
                let end = self.dice.pick(&["        break;", "    // on to the next one"]);
                self.line(end);
                self.body("    default:", 2, "}");
                self.loops -= 1;
            }
            _ => {
                let (one, other) = (self.value(1), self.value(1));
                let text = format!(
                    "[{}, {}] = [{one}, {other}];",
                    self.dice.pick(&["$a", "$b"]),
                    self.dice.pick(&["$c", "$p"])
                );
                self.line(&text);
            }
        }
    }
}

impl Block<'_> {
    fn value(&mut self, deep: u64) -> String {
        match self.dice.roll(if deep == 0 { 4 } else { 14 }) {
            0 | 1 => self.dice.pick(LOCALS).to_string(),
            2 => self.dice.roll(4).to_string(),
            3 => self.dice.pick(&["$ship->low", "$ship->high", "LIMIT", "$this->n", "self::$tide"]).to_string(),
            4 => format!("{} + {}", self.value(deep - 1), self.value(deep - 1)),
            5 => format!("{}({})", self.dice.pick(&["rise", "fall", "late", "twice"]), self.value(deep - 1)),
            6 => format!("$ship->{}({})", self.dice.pick(&["load", "turn"]), self.value(deep - 1)),
            7 => format!("({}[{}] ?? {})", self.dice.pick(LISTS), self.dice.roll(4), self.value(deep - 1)),
            8 => format!("({} ? {} : {})", self.test(), self.value(deep - 1), self.value(deep - 1)),
            9 => format!("count({})", self.dice.pick(LISTS)),
            10 => format!("(isset({}[{}]) ? 1 : 0)", self.dice.pick(LISTS), self.dice.roll(5)),
            11 => format!("array_sum({})", self.dice.pick(LISTS)),
            12 => format!("strlen(\"{} {{{}}}\")", self.dice.pick(LOCALS), self.dice.pick(LOCALS)),
            _ => format!("strlen({} . '-x')", self.value(0)),
        }
    }

    fn test(&mut self) -> String {
        let op = self.dice.pick(&["<", ">", "==", "!="]);
        format!("{} {op} {}", self.value(0), self.value(0))
    }

    fn simple(&mut self) {
        let text = match self.dice.roll(13) {
            0..=2 => format!("{} = {};", self.dice.pick(LOCALS), self.value(2)),
            3 => format!("{} {} {};", self.dice.pick(LOCALS), self.dice.pick(&["+=", "-="]), self.value(1)),
            4 => format!("{}++;", self.dice.pick(LOCALS)),
            5 | 6 => format!("echo {}, ' ', {}, ' ';", self.value(0), self.value(1)),
            7 => format!("$ship->{} = {};", self.dice.pick(&["low", "high"]), self.value(1)),
            8 if !self.marked => {
                self.marked = true;
                let call = format!("mark({}, {})", self.value(1), self.value(0));
                if self.dice.chance(60) { format!("{} = {call};", self.dice.pick(LOCALS)) } else { format!("{call};") }
            }
            8 => format!("fill({});", self.dice.pick(&["$rows", "$more", "$ship->seen", "$this->kept"])),
            9 => format!("{}[] = {};", self.dice.pick(LISTS), self.value(1)),
            10 => format!("{}[{}] = {};", self.dice.pick(LISTS), self.dice.roll(3), self.value(1)),
            11 => {
                let list = self.dice.pick(LISTS);
                match self.dice.roll(4) {
                    0 => format!("sort({list});"),
                    1 => format!("$more = {list};"),
                    2 => format!("{} = array_pop({list}) ?? 0;", self.dice.pick(LOCALS)),
                    _ => format!("unset({list}[{}]);", self.dice.roll(3)),
                }
            }
            _ => {
                self.made += 1;
                let (k, value) = (self.made, self.value(2));
                self.line(&format!("$k{k} = {value};"));
                match self.dice.roll(3) {
                    0 => format!("$rows[] = $k{k};"),
                    1 => format!("{} = {} + $k{k};", self.dice.pick(LOCALS), self.value(1)),
                    _ => format!("echo $k{k}, {}, ' ';", self.value(1)),
                }
            }
        };
        self.line(&text);
    }
}

fn block(dice: &mut Dice, statements: u64, depth: usize, made: u64, loops: u64) -> String {
    let mut b = Block { dice, out: String::new(), depth, loops, made, marked: false };
    for _ in 0..statements {
        b.statement();
    }
    b.out
}

/// The block with a few words changed, as a copy that grew apart would have.
fn vary(dice: &mut Dice, text: &str) -> String {
    let mut out = text.to_string();
    let changes = [
        ("$ship->low", "$ship->high"),
        ("rise(", "twice("),
        ("fall(", "rise("),
        ("LIMIT", "self::$tide"),
        ("$ship->seen", "$this->kept"),
        ("$rows[", "$more["),
        ("$this->n", "LIMIT"),
        ("twice(", "late("),
        (" ', ", "- ', "),
        ("$this->kept", "$rows"),
    ];
    for (from, to) in changes {
        if dice.chance(25) {
            out = if dice.chance(50) { out.replace(from, to) } else { out.replacen(from, to, 1) };
        }
    }
    out = lacking(dice, &out, &["echo", "$rows"]);
    if dice.chance(40) {
        // another name for a local
        for after in [" ", ";", ",", ")", "+", "}", "]", "-", "\""] {
            out = out.replace(&format!("$b{after}"), &format!("$dock{after}"));
        }
    }
    out
}

const HEAD: &str = "\
<?php
const LIMIT = 2;
$log = [];

function note(string $what, $n): void
{
    global $log;
    $log[] = $what . $n;
}

function rise($n)
{
    note('rise', $n);
    return $n + 1;
}

function fall($n)
{
    Port::$tide++;
    return $n - 1;
}

function both($n)
{
    return [$n, $n + 1];
}

function late($n)
{
    return rise(1) + $n;
}

function fill(array &$list): void
{
    $list[] = count($list);
}

function mark($n, $m)
{
    note('mark', $n);
    $marked = $n + $m;
    if ($marked > 3) {
        $marked = $marked - rise($m);
    }
    return $marked;
}

function twice($n)
{
    return $n * 2 - $n;
}

class Ship
{
    public $low = 1;
    public $high = 3;
    public $seen = [4];
    public function load($n)
    {
        $this->low++;
        return $n + $this->low;
    }
    public function turn($n)
    {
        $this->high--;
        return $n * $this->high;
    }
}

class Port
{
    public static $tide = 1;
    public $n = 5;
    public $kept = [1, 2];

";

const TAIL: &str = "\
}

set_error_handler(function ($level, $text) {
    // names of variables and places are no part of what is compared
    note('warned', '');
    return true;
});
foreach (['first', 'second'] as $f) {
    foreach ([[0, 1], [2, 0], [3, 5]] as [$x, $y]) {
        $log = [];
        Port::$tide = 1;
        $ship = new Ship();
        $port = new Port();
        $rows = [1, 2, 3];
        try {
            $result = json_encode($port->$f($x, $y, $rows, $ship));
        } catch (Throwable $e) {
            $result = 'raised';
        }
        echo \"\\n\", $result, ' ', json_encode([$rows, $ship, $port, Port::$tide]), ' ';
        echo implode(' ', array_slice($log, 0, 30)), \"\\n\";
    }
}
";

/// The program, and the line on which the first copy begins.
pub fn program(seed: u64) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let inner = dice.chance(30);
    let statements = 3 + dice.roll(4);
    // the copies are in a loop, or the last thing that their functions do
    let (looped, last) = (inner && dice.chance(60), dice.chance(25));
    let depth = 2 + usize::from(inner);
    let shared = block(&mut dice, statements, depth, 0, looped.into());
    let other = vary(&mut dice, &shared);
    let mut text = HEAD.to_string();
    let mut line = 0;
    for (name, body) in [("first", &shared), ("second", &other)] {
        let rows = dice.pick(&["$rows", "array $rows", "array &$rows"]);
        let _ = write!(text, "    public function {name}($p, $q, {rows}, $ship)\n    {{\n");
        text.push_str("        $a = $p;\n        $c = 1;\n        $more = [7];\n        $dock = 4;\n");
        text.push_str(if dice.chance(80) { "        $b = $q;\n" } else { "        $b = 0;\n" });
        text.push_str(if name == "second" { "        echo 'second ', $p, ' ';\n" } else { "" });
        if inner {
            let head = if looped { "for ($turn = 1; $turn < 3; $turn++) {" } else { "if ($p != 9) {" };
            let _ = writeln!(text, "        {head}");
        }
        if line == 0 {
            line = text.lines().count() + 1;
        }
        text.push_str(body);
        let more = if last { 0 } else { dice.roll(3) };
        let inside = looped && dice.chance(50);
        let rest = block(&mut dice, more, if inside { 3 } else { 2 }, 90, inside.into());
        if inside {
            text.push_str(&rest);
        }
        text.push_str(if inner { "        }\n" } else { "" });
        if !inside {
            text.push_str(&rest);
        }
        if !last {
            let shown = dice.pick(&["[$a, $b, $c, $rows]", "[$a, $more]", "$a + $c", "[$p, $dock, $q]"]);
            let _ = writeln!(text, "        return {shown};");
        }
        text.push_str("    }\n\n");
    }
    text.push_str(TAIL);
    (text, line)
}
