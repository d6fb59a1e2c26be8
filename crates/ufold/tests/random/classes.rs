//! Random classes, some below others, that declare the same members by the same or other words, in Python, JavaScript,
//! TypeScript and Java. The program makes an object of each and prints what all its methods say.

use super::Dice;

#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    Python,
    JavaScript,
    TypeScript,
    Java,
}

/// The text of a program of one file, and the members of its classes as `Class.member`.
pub struct Program {
    pub text: String,
    pub members: Vec<String>,
}

const NAMES: [&str; 6] = ["Berth", "Ship", "Crane", "Quay", "Tug", "Buoy"];
const METHODS: [&str; 5] = ["label", "size", "shown", "twice", "next"];

struct Class {
    name: &'static str,
    base: Option<usize>,
    /// With the numbers of their values.
    fields: Vec<(&'static str, u64)>,
    /// Names with the numbers of their bodies.
    methods: Vec<(&'static str, u64)>,
    /// What its constructor sets, in order; none where it has none.
    sets: Option<Vec<&'static str>>,
    extra: bool,
    private: bool,
    /// Those below extend it by another name.
    alias: bool,
}

impl Class {
    /// What is extended.
    fn as_base(&self) -> String {
        if self.alias { format!("Old{}", self.name) } else { self.name.to_string() }
    }
}

pub fn program(seed: u64, kind: Kind) -> Program {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let count = 4 + dice.roll(3) as usize;
    let mut all: Vec<Class> = Vec::new();
    for name in NAMES.iter().take(count) {
        let base = (!all.is_empty() && dice.chance(50))
            .then(|| if dice.chance(70) { 0 } else { dice.roll(all.len() as u64) as usize });
        let mut fields = Vec::new();
        for f in ["unit", "depth"] {
            if dice.chance(40) {
                fields.push((f, u64::from(dice.chance(25))));
            }
        }
        if dice.chance(30) {
            fields.reverse();
        }
        let mut methods = Vec::new();
        for m in METHODS {
            // the first says little itself, so that there is something to be said below it
            if dice.chance(if name == &NAMES[0] { 25 } else { 70 }) {
                methods.push((m, u64::from(dice.chance(20))));
            }
        }
        let sets = dice.chance(70).then(|| {
            let mut out = vec!["number", "name"];
            if dice.chance(25) {
                out.reverse();
            }
            out
        });
        let (extra, private) = (dice.chance(40), dice.chance(30));
        let alias = matches!(kind, Kind::Python | Kind::JavaScript) && dice.chance(15);
        all.push(Class { name, base, fields, methods, sets, extra, private, alias });
    }
    let mut text = String::new();
    for i in 0..all.len() {
        text.push_str(&match kind {
            Kind::Python => python(&all, i, &mut dice),
            Kind::Java => java(&all, i, &mut dice),
            _ => javascript(&all, i, kind == Kind::TypeScript, &mut dice),
        });
        if all[i].alias {
            let (word, gap) = if kind == Kind::Python { ("", "\n\n\n") } else { ("const ", ";\n\n") };
            text.push_str(&format!("{word}{} = {}{gap}", all[i].as_base(), all[i].name));
        }
    }
    let members = all.iter().flat_map(|c| {
        let own = c.methods.iter().map(|m| m.0).chain(c.fields.iter().map(|f| f.0));
        own.map(|m| format!("{}.{m}", c.name)).collect::<Vec<_>>()
    });
    let members = members.collect();
    Program { text: format!("{}{text}{}", head(kind), end(&all, kind)), members }
}

fn head(kind: Kind) -> &'static str {
    match kind {
        Kind::Python => "WORD = \"port\"\n\n\ndef mark(value):\n    return f\"<{value}>\"\n\n\n",
        Kind::JavaScript => "const WORD = \"port\";\n\nfunction mark(value) {\n  return `<${value}>`;\n}\n\n",
        Kind::TypeScript => {
            "const WORD = \"port\";\n\nfunction mark(value: number | string): string {\n  return `<${value}>`;\n}\n\n"
        }
        Kind::Java => {
            "class Words {\n    static final String WORD = \"port\";\n\n    static String mark(Object value) {\n        return \"<\" + value + \">\";\n    }\n}\n\n"
        }
    }
}

/// A class or one above it has the method; its number.
fn method(all: &[Class], at: usize, name: &str) -> bool {
    all[at].methods.iter().any(|m| m.0 == name) || all[at].base.is_some_and(|b| method(all, b, name))
}

fn field(all: &[Class], at: usize, name: &str) -> bool {
    all[at].fields.iter().any(|f| f.0 == name) || all[at].base.is_some_and(|b| field(all, b, name))
}

/// What a method gives: by what is surely there. `me` is what its object is called.
fn value(all: &[Class], at: usize, (name, body): (&str, u64), me: &str, open: (&str, &str)) -> String {
    let (mark, word) = open;
    let known = |f: &str| field(all, at, f);
    match (name, body) {
        ("label", 0) => format!("{mark}({me}number)"),
        ("label", _) => format!("{mark}({me}name)"),
        ("size", 0) if known("depth") => format!("{mark}({me}depth)"),
        ("size", _) => format!("{mark}({word})"),
        ("shown", 0) if method(all, at, "label") => format!("{mark}({me}label())"),
        ("shown", 1) if known("unit") => format!("{mark}({me}unit)"),
        ("shown", _) => format!("{mark}(\"shown\")"),
        ("twice", 0) if method(all, at, "size") => format!("{mark}({me}size())"),
        ("twice", _) => format!("{mark}({me}number)"),
        (_, 0) => format!("{mark}({me}name)"),
        _ => format!("{mark}(\"next\")"),
    }
}

fn unit(f: (&str, u64)) -> String {
    match f {
        ("unit", 0) => "\"m\"".into(),
        ("unit", _) => "\"ft\"".into(),
        (_, n) => format!("{}", 3 + n),
    }
}

fn python(all: &[Class], i: usize, dice: &mut Dice) -> String {
    let c = &all[i];
    let base = c.base.map_or(String::new(), |b| format!("({})", all[b].as_base()));
    let mut out = format!("class {}{base}:\n", c.name);
    c.fields.iter().for_each(|f| out.push_str(&format!("    {} = {}\n", f.0, unit(*f))));
    let mut parts = Vec::new();
    let sets = c.sets.clone().or(c.base.is_none().then(|| vec!["number", "name"]));
    if let Some(sets) = sets {
        let mut body: Vec<String> = Vec::new();
        if c.base.is_some() && dice.chance(50) {
            body.push("        super().__init__(number, name)\n".into());
        }
        body.extend(sets.iter().map(|f| format!("        self.{f} = {f}\n")));
        body.extend(c.extra.then(|| format!("        self.own = \"{}\"\n", c.name)));
        parts.push(format!("    def __init__(self, number, name=\"none\"):\n{}", body.concat()));
    }
    for m in &c.methods {
        let super_ = dice.chance(8) && c.base.is_some_and(|b| method(all, b, m.0));
        let v =
            if super_ { format!("super().{}() + \"+\"", m.0) } else { value(all, i, *m, "self.", ("mark", "WORD")) };
        let note = if dice.chance(15) { format!("    # {}\n", m.0) } else { String::new() };
        parts.push(format!("{note}    def {}(self):\n        return {v}\n", m.0));
    }
    if parts.is_empty() && c.fields.is_empty() {
        parts.push("    pass\n".into());
    }
    if !c.fields.is_empty() && !parts.is_empty() {
        out.push('\n');
    }
    format!("{out}{}\n\n", parts.join("\n"))
}

fn javascript(all: &[Class], i: usize, typed: bool, dice: &mut Dice) -> String {
    let c = &all[i];
    let base = c.base.map_or(String::new(), |b| format!(" extends {}", all[b].as_base()));
    let mut out = format!("class {}{base} {{\n", c.name);
    let mut fields: Vec<String> = Vec::new();
    let sets = c.sets.clone().or(c.base.is_none().then(|| vec!["number", "name"]));
    if typed && c.base.is_none() {
        fields.push("  number: number;\n  name: string;\n".into());
        fields.extend(c.extra.then(|| "  own = \"\";\n".to_string()));
    }
    fields.extend(c.fields.iter().map(|f| {
        let of = if typed { if f.0 == "unit" { ": string" } else { ": number" } } else { "" };
        format!("  {}{of} = {};\n", f.0, unit(*f))
    }));
    let mut parts = Vec::new();
    if let Some(sets) = sets {
        let mut body: Vec<String> = c.base.iter().map(|_| "    super(number, name);\n".to_string()).collect();
        body.extend(sets.iter().map(|f| format!("    this.{f} = {f};\n")));
        body.extend((c.extra && !(typed && c.base.is_some())).then(|| format!("    this.own = \"{}\";\n", c.name)));
        let head = if typed { "number: number, name: string = \"none\"" } else { "number, name = \"none\"" };
        parts.push(format!("  constructor({head}) {{\n{}  }}\n", body.concat()));
    }
    let of = if typed { ": string" } else { "" };
    for m in &c.methods {
        let super_ = dice.chance(8) && c.base.is_some_and(|b| method(all, b, m.0));
        let v = if super_ { format!("super.{}() + \"+\"", m.0) } else { value(all, i, *m, "this.", ("mark", "WORD")) };
        parts.push(format!("  {}(){of} {{\n    return {v};\n  }}\n", m.0));
    }
    if !fields.is_empty() && !parts.is_empty() {
        fields.push("\n".into());
    }
    out.push_str(&fields.concat());
    format!("{out}{}}}\n\n", parts.join("\n"))
}

fn java(all: &[Class], i: usize, dice: &mut Dice) -> String {
    let c = &all[i];
    let base = c.base.map_or(String::new(), |b| format!(" extends {}", all[b].name));
    let mut out = format!("class {}{base} {{\n", c.name);
    let private = if c.private && c.base.is_none() && !all.iter().any(|o| o.base == Some(i)) { "private " } else { "" };
    let mut fields: Vec<String> = Vec::new();
    if c.base.is_none() {
        fields.push(format!("    {private}int number;\n    {private}String name;\n"));
    }
    fields.extend(
        c.fields.iter().map(|f| {
            format!("    {private}{} {} = {};\n", if f.0 == "unit" { "String" } else { "int" }, f.0, unit(*f))
        }),
    );
    let mut body: Vec<String> = c.base.iter().map(|_| "        super(number, name);\n".to_string()).collect();
    let sets = c.sets.clone().unwrap_or_else(|| if c.base.is_none() { vec!["number", "name"] } else { Vec::new() });
    body.extend(sets.iter().map(|f| format!("        this.{f} = {f};\n")));
    let mut parts = vec![format!("    {}(int number, String name) {{\n{}    }}\n", c.name, body.concat())];
    for m in &c.methods {
        let super_ = dice.chance(8) && c.base.is_some_and(|b| method(all, b, m.0));
        let me = if m.1 == 0 { "" } else { "this." };
        let v = match super_ {
            true => format!("super.{}() + \"+\"", m.0),
            false => value(all, i, *m, me, ("Words.mark", "Words.WORD")),
        };
        parts.push(format!("    String {}() {{\n        return {v};\n    }}\n", m.0));
    }
    fields.push("\n".into());
    out.push_str(&fields.concat());
    format!("{out}{}}}\n\n", parts.join("\n"))
}

fn end(all: &[Class], kind: Kind) -> String {
    let mut out = String::new();
    if kind == Kind::Java {
        out.push_str("class Main {\n    public static void main(String[] args) {\n");
    }
    for (i, c) in all.iter().enumerate() {
        let object = format!("o{i}");
        let new = match kind {
            Kind::Python => format!("{object} = {}({i}, \"n{i}\")\n", c.name),
            Kind::Java => format!("        {} {object} = new {}({i}, \"n{i}\");\n", c.name, c.name),
            _ => format!("const {object} = new {}({i}, \"n{i}\");\n", c.name),
        };
        out.push_str(&new);
        for m in METHODS.iter().filter(|m| method(all, i, m)) {
            out.push_str(&match kind {
                Kind::Python => format!("print(\"{}.{m}\", {object}.{m}())\n", c.name),
                Kind::Java => format!("        System.out.println(\"{}.{m} \" + {object}.{m}());\n", c.name),
                _ => format!("console.log(\"{}.{m}\", {object}.{m}());\n", c.name),
            });
        }
        match kind {
            Kind::JavaScript | Kind::TypeScript => out.push_str(&format!("console.log(JSON.stringify({object}));\n")),
            Kind::Python => out.push_str(&format!("print({object}.number)\n")),
            Kind::Java => {}
        }
    }
    if kind == Kind::Java {
        out.push_str("    }\n}\n");
    }
    out
}
