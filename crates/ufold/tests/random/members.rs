//! Small random Java programs of several packages, whose classes have static functions and fields of few names: bare, by
//! their class, by a class below, by their package, by static imports, handed on; with locals of the same names, classes
//! without a name, comments and blocks that run when a class is made ready.

use super::Dice;

pub struct Program {
    pub files: Vec<(String, String)>,
    /// Classes by their files, each with the names that it declares.
    pub classes: Vec<(String, Vec<&'static str>)>,
}

const CLASSES: [&str; 5] = ["Fees", "Dues", "Berth", "Tide", "Crane"];
const FUNCTIONS: [&str; 5] = ["due", "net", "rate", "top", "low"];
const FIELDS: [&str; 4] = ["RATE", "BASE", "count", "TOP"];
const WORDS: [&str; 3] = ["public ", "", "private "];

struct Class {
    package: &'static str,
    above: Option<usize>,
    /// Names with the number of their word.
    functions: Vec<(usize, usize)>,
    fields: Vec<(usize, usize)>,
}

impl Class {
    fn has(&self, name: &str) -> bool {
        let function = self.functions.iter().any(|f| FUNCTIONS[f.0] == name);
        function || self.fields.iter().any(|f| FIELDS[f.0] == name)
    }
}

fn some(dice: &mut Dice, most: usize) -> Vec<(usize, usize)> {
    let mut out: Vec<(usize, usize)> = Vec::new();
    for _ in 0..1 + dice.roll(3) {
        let (name, word) = (dice.roll(most as u64) as usize, [0, 0, 1, 2][dice.roll(4) as usize]);
        if !out.iter().any(|o| o.0 == name) {
            out.push((name, word));
        }
    }
    out
}

fn class(dice: &mut Dice, i: usize) -> Class {
    let package = dice.pick(&["port", "desk"]);
    let above = (i > 0 && dice.chance(35)).then(|| dice.roll(i as u64) as usize);
    let mut functions = some(dice, FUNCTIONS.len());
    // one that hides another must be as open
    functions.iter_mut().for_each(|f| f.1 = if f.0 < 2 { 0 } else { f.1 });
    Class { package, above, functions, fields: some(dice, FIELDS.len()) }
}

struct Writer<'a> {
    dice: &'a mut Dice,
    all: &'a [Class],
    own: usize,
    imports: Vec<String>,
}

impl Writer<'_> {
    /// How a member of a class is named here.
    fn named(&mut self, of: usize, name: &str) -> String {
        let (here, there) = (&self.all[self.own], &self.all[of]);
        if of == self.own {
            return if self.dice.chance(70) { name.into() } else { format!("{}.{name}", CLASSES[of]) };
        }
        let full = format!("{}.{}", there.package, CLASSES[of]);
        let known = self.imports.iter().any(|i| i.ends_with(&format!(".{name};")));
        if self.dice.chance(20) && !here.has(name) && here.above.is_none() && !known {
            self.imports.push(format!("import static {full}.{name};"));
            return name.into();
        }
        if self.dice.chance(12) {
            return format!("{full}.{name}");
        }
        if here.above == Some(of) && !here.has(name) && self.dice.chance(60) {
            return if self.dice.chance(60) { name.into() } else { format!("{}.{name}", CLASSES[self.own]) };
        }
        self.import(of);
        format!("{}.{name}", CLASSES[of])
    }

    fn import(&mut self, of: usize) {
        let line = format!("import {}.{};", self.all[of].package, CLASSES[of]);
        if self.all[of].package != self.all[self.own].package && !self.imports.contains(&line) {
            self.imports.push(line);
        }
    }

    /// Members that code here may name: functions that come later, so that every call ends.
    fn seen(&self, function: Option<usize>) -> Vec<(usize, &'static str)> {
        let mut out = Vec::new();
        for (c, class) in self.all.iter().enumerate() {
            let near = class.package == self.all[self.own].package;
            let open = |word: usize| c == self.own || word == 0 || word == 1 && near;
            match function {
                Some(f) => {
                    let later = |g: &&(usize, usize)| (g.0, c) > (f, self.own) && open(g.1);
                    out.extend(class.functions.iter().filter(later).map(|g| (c, FUNCTIONS[g.0])));
                }
                None => out.extend(class.fields.iter().filter(|f| open(f.1)).map(|f| (c, FIELDS[f.0]))),
            }
        }
        out
    }

    fn value(&mut self, function: usize, depth: usize) -> String {
        let (calls, reads) = (self.seen(Some(function)), self.seen(None));
        match self.dice.roll(if depth > 2 { 2 } else { 10 }) {
            0 => self.dice.pick(&["a", "2", "a % 5"]).into(),
            1 | 2 if !reads.is_empty() => {
                let (c, name) = reads[self.dice.roll(reads.len() as u64) as usize];
                self.named(c, name)
            }
            3..=6 if !calls.is_empty() => {
                let (c, name) = calls[self.dice.roll(calls.len() as u64) as usize];
                let given = self.value(function, depth + 1);
                if self.dice.chance(15) {
                    self.import(c);
                    return format!(
                        "((java.util.function.IntUnaryOperator) {}::{name}).applyAsInt({given})",
                        CLASSES[c]
                    );
                }
                format!("{}({given})", self.named(c, name))
            }
            7 | 8 => {
                let (x, y) = (self.value(function, depth + 1), self.value(function, depth + 1));
                format!("({x} {} {y})", self.dice.pick(&["+", "-", "*"]))
            }
            _ => "3".into(),
        }
    }

    fn function(&mut self, (name, word): (usize, usize)) -> String {
        let mut out = String::new();
        if self.dice.chance(30) {
            out.push_str(&format!("    /** {{@link #{}}} of {{@link {}}}. */\n", FUNCTIONS[name], CLASSES[self.own]));
        }
        out.push_str(&format!("    {}static int {}(int a) {{\n", WORDS[word], FUNCTIONS[name]));
        if self.all[self.own].has("count") && self.dice.chance(30) {
            out.push_str("        count += a;\n");
        }
        if self.dice.chance(25) {
            let value = self.value(name, 1);
            let local = self.dice.pick(&["RATE", "count", "BASE", "b"]);
            // it may stand for itself in its own value
            if !value.split(|c: char| !c.is_alphanumeric()).any(|w| w == local) {
                out.push_str(&format!("        int {local} = {value};\n"));
            }
        }
        if self.dice.chance(20) {
            let (own, value) = (self.dice.pick(&FUNCTIONS), self.value(name, 1));
            let head = format!(
                "        Object o = new Object() {{\n            int {own}(int z) {{\n                return z;\n            }}\n"
            );
            let called = value.split(|c: char| !c.is_alphanumeric()).any(|w| w == own);
            let text = if called { "1".to_string() } else { value };
            out.push_str(&format!("{head}\n            public String toString() {{\n                return \"\" + {text};\n            }}\n        }};\n        System.out.println(o);\n"));
        }
        let value = self.value(name, 0);
        out.push_str(&format!("        return {value};\n    }}\n"));
        out
    }

    fn text(&mut self) -> String {
        let (i, c) = (self.own, &self.all[self.own]);
        let mut body = String::new();
        for (f, word) in &c.fields {
            let fixed = if FIELDS[*f] != "count" && self.dice.chance(80) { "final " } else { "" };
            body.push_str(&format!(
                "    {}static {fixed}int {} = {};\n",
                WORDS[*word],
                FIELDS[*f],
                1 + self.dice.roll(9)
            ));
        }
        if self.dice.chance(15) {
            body.push_str(&format!("\n    static {{\n        System.out.println(\"{}\");\n    }}\n", CLASSES[i]));
        }
        for f in &c.functions {
            body.push_str(&format!("\n{}", self.function(*f)));
        }
        let above = c.above.map_or(String::new(), |a| match self.all[a].package == c.package {
            true => format!(" extends {}", CLASSES[a]),
            false => format!(" extends {}.{}", self.all[a].package, CLASSES[a]),
        });
        self.imports.sort();
        let imports: String = self.imports.iter().map(|l| format!("{l}\n")).collect();
        let gap = if imports.is_empty() { "" } else { "\n" };
        format!("package {};\n\n{imports}{gap}public class {}{above} {{\n{body}}}\n", c.package, CLASSES[i])
    }
}

pub fn program(seed: u64) -> Program {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let all: Vec<Class> = (0..CLASSES.len()).map(|i| class(&mut dice, i)).collect();
    let mut main = String::from("public class Main {\n    public static void main(String[] args) {\n");
    for (i, c) in all.iter().enumerate() {
        let open = c.functions.iter().filter(|f| f.1 == 0).map(|f| format!("{}(3)", FUNCTIONS[f.0]));
        let read = c.fields.iter().filter(|f| f.1 == 0).map(|f| FIELDS[f.0].to_string());
        for what in open.chain(read) {
            main.push_str(&format!("        System.out.println({}.{}.{what});\n", c.package, CLASSES[i]));
        }
    }
    main.push_str("        System.out.println(1);\n    }\n}\n");
    let mut files = vec![("Main.java".to_string(), main)];
    for own in 0..all.len() {
        let text = Writer { dice: &mut dice, all: &all, own, imports: Vec::new() }.text();
        files.push((format!("{}/{}.java", all[own].package, CLASSES[own]), text));
    }
    let names = |c: &Class| {
        let functions = c.functions.iter().map(|f| FUNCTIONS[f.0]);
        functions.chain(c.fields.iter().map(|f| FIELDS[f.0])).collect()
    };
    let classes = all.iter().enumerate().map(|(i, c)| (format!("{}/{}.java", c.package, CLASSES[i]), names(c)));
    Program { classes: classes.collect(), files }
}
