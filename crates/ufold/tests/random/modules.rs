//! Random projects of a few modules that import each other, in Python (flat, or a package), ES modules and CommonJS.

use super::Dice;

#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    Python,
    Modules,
    Required,
}

/// A project: its files, the first of which is run, and the definitions of each module.
pub struct Project {
    pub files: Vec<(String, String)>,
    /// Path of a module, with its names.
    pub modules: Vec<(String, Vec<String>)>,
}

struct Maker {
    dice: Dice,
    kind: Kind,
    package: bool,
    /// Names of the modules so far, with what they define.
    done: Vec<(String, Vec<String>)>,
}

const STEMS: [&str; 5] = ["tides", "berths", "fees", "cranes", "notices"];
const THINGS: [&str; 6] = ["level", "quay", "rate", "hook", "line", "watch"];

pub fn project(seed: u64, kind: Kind) -> Project {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let package = kind == Kind::Python && dice.chance(50);
    let count = 2 + dice.roll(3) as usize;
    let mut m = Maker { dice, kind, package, done: Vec::new() };
    let mut files = Vec::new();
    for stem in STEMS.iter().take(count) {
        let text = m.module(stem);
        files.push((m.path(stem), text));
    }
    let main = m.main();
    files.insert(0, (format!("main.{}", m.extension()), main));
    if package {
        files.push(("port/__init__.py".into(), String::new()));
    }
    let modules = m.done.iter().map(|(stem, names)| (m.path(stem), names.clone())).collect();
    Project { files, modules }
}

impl Maker {
    fn extension(&self) -> &'static str {
        match self.kind {
            Kind::Python => "py",
            Kind::Modules => "mjs",
            Kind::Required => "js",
        }
    }

    fn path(&self, stem: &str) -> String {
        let folder = if self.package { "port/" } else { "" };
        format!("{folder}{stem}.{}", self.extension())
    }

    /// A module with constants, functions that call each other and those of earlier modules, and a class.
    fn module(&mut self, stem: &str) -> String {
        let mut imports: Vec<String> = Vec::new();
        let mut known: Vec<String> = Vec::new();
        for (other, names) in self.done.clone() {
            if self.dice.chance(60) {
                let (line, mut there) = self.import(&other, &names, stem);
                imports.push(line);
                known.append(&mut there);
            }
        }
        let (mut body, mut names): (Vec<String>, Vec<String>) = (Vec::new(), Vec::new());
        if self.dice.chance(20) {
            body.push(self.print(&format!("'loading {stem}'")));
        }
        // some are large enough to be split
        let more = if self.dice.chance(40) { 12 } else { 0 };
        for i in 0..3 + more + self.dice.roll(6) {
            let thing = THINGS[self.dice.roll(THINGS.len() as u64) as usize];
            let private = if self.dice.chance(30) && self.kind == Kind::Python { "_" } else { "" };
            let name = format!("{private}{stem}_{thing}{i}");
            let uses = self.uses(&known);
            let text = match self.dice.roll(8) {
                0 => {
                    let value = self.dice.roll(9) + 1;
                    self.value(&name, &value.to_string())
                }
                1 => self.class(&name, &uses),
                _ => self.function(&name, &uses),
            };
            body.push(text);
            known.push(name.clone());
            names.push(name);
        }
        if self.dice.chance(15) {
            let last = names[names.len() - 1].clone();
            let word = format!("'loading ' + {}(", if self.kind == Kind::Python { "str" } else { "String" });
            body.push(self.print(&format!("{word}{})", self.shown(&last))));
        }
        if self.kind == Kind::Required {
            let listed: Vec<&String> = names.iter().collect();
            let listed: Vec<&str> = listed.iter().map(|n| n.as_str()).collect();
            body.push(format!("module.exports = {{ {} }};\n", listed.join(", ")));
        }
        self.done.push((stem.to_string(), names));
        let gap = if self.kind == Kind::Python { "\n\n" } else { "\n" };
        let head = if imports.is_empty() { String::new() } else { format!("{}\n{gap}", imports.join("\n")) };
        format!("{head}{}", body.join(gap))
    }

    /// One to three names of before, as a sum.
    fn uses(&mut self, known: &[String]) -> String {
        let mut all: Vec<String> = vec!["n".into()];
        for _ in 0..self.dice.roll(3) {
            if !known.is_empty() {
                let name = &known[self.dice.roll(known.len() as u64) as usize];
                all.push(self.shown(name));
            }
        }
        all.join(" + ")
    }

    /// A name's value as a number: by a function of the program that takes all kinds of things.
    fn shown(&self, name: &str) -> String {
        match self.kind {
            Kind::Python => format!("(({name}(2) if callable({name}) else {name}) * 1)"),
            _ => format!("(typeof {name} === 'function' ? {name}(2) : {name})"),
        }
    }

    fn print(&self, value: &str) -> String {
        match self.kind {
            Kind::Python => format!("print({value})\n"),
            _ => format!("console.log({value});\n"),
        }
    }

    fn export(&self) -> &'static str {
        if self.kind == Kind::Modules { "export " } else { "" }
    }

    fn value(&self, name: &str, value: &str) -> String {
        match self.kind {
            Kind::Python => format!("{name} = {value}\n"),
            _ => format!("{}const {name} = {value};\n", self.export()),
        }
    }

    /// An import that a function makes for itself, in one of the ways in which people do, and the sum with what it gives.
    fn taken_inside(&mut self, uses: &str) -> (String, String) {
        let none = (String::new(), uses.to_string());
        if self.done.is_empty() || self.kind == Kind::Modules || !self.dice.chance(25) {
            return none;
        }
        let (other, names) = self.done[self.dice.roll(self.done.len() as u64) as usize].clone();
        let name = names[self.dice.roll(names.len() as u64) as usize].clone();
        let (from, way) = (if self.package { "from port " } else { "" }, self.dice.roll(5));
        let module = if self.package { format!("port.{other}") } else { other.clone() };
        let through = |m: &str| self.shown(&format!("{m}.{name}"));
        let (lines, more) = match (self.kind, way) {
            (Kind::Required, 0) => (format!("  const {{ {name}: got }} = require('./{other}');\n"), self.shown("got")),
            (Kind::Required, 1) => {
                let tried = format!(
                    "  let held = null;\n  try {{ held = require('./{other}'); }} catch (e) {{ held = null; }}\n"
                );
                (tried, through("held"))
            }
            (Kind::Required, _) => (format!("  const held = require('./{other}');\n"), through("held")),
            (_, 0) => (format!("    from {module} import {name}\n"), self.shown(&name)),
            (_, 1) => (format!("    from {module} import {name} as got\n"), self.shown("got")),
            (_, 2) => {
                let tried = format!(
                    "    try:\n        {from}import {other} as held\n    except ImportError:\n        held = None\n"
                );
                (tried, through("held"))
            }
            (_, 3) => (format!("    {from}import {other}\n    held = {other}\n"), through("held")),
            _ => (format!("    {from}import {other} as held\n"), through("held")),
        };
        (lines, format!("{uses} + {more}"))
    }

    fn function(&mut self, name: &str, uses: &str) -> String {
        let more = self.dice.roll(3);
        let (taken, uses) = self.taken_inside(uses);
        match self.kind {
            Kind::Python => {
                let lines: String = (0..more).map(|i| format!("    n = n + {i}\n")).collect();
                let lines = taken + &lines;
                format!("def {name}(n):\n{lines}    return {uses}\n")
            }
            _ => {
                let lines: String = (0..more).map(|i| format!("  n = n + {i};\n")).collect();
                let lines = taken + &lines;
                format!("{}function {name}(n) {{\n{lines}  return {uses};\n}}\n", self.export())
            }
        }
    }

    /// A function whose work a class does.
    fn class(&self, name: &str, uses: &str) -> String {
        match self.kind {
            Kind::Python => format!(
                "def {name}(n):\n    class Inner:\n        def go(self):\n            return {uses}\n\n    return Inner().go()\n"
            ),
            _ => format!("{}const {name} = (n) => {{\n  const all = [{uses}];\n  return all[0];\n}};\n", self.export()),
        }
    }

    /// An import of some names of a module, and how they are called then.
    fn import(&mut self, other: &str, names: &[String], _own: &str) -> (String, Vec<String>) {
        let some: Vec<String> = names.iter().filter(|_| self.dice.chance(60)).cloned().collect();
        let some = if some.is_empty() { vec![names[0].clone()] } else { some };
        let through = |prefix: &str| some.iter().map(|n| format!("{prefix}.{n}")).collect::<Vec<_>>();
        let way = self.dice.roll(4);
        match self.kind {
            Kind::Python if self.dice.chance(10) => {
                let from = if self.package { "from port " } else { "" };
                let tried = format!(
                    "try:\n    {from}import {other} as held_{other}\nexcept ImportError:\n    held_{other} = None"
                );
                (tried, through(&format!("held_{other}")))
            }
            Kind::Python => {
                let (full, relative) = if self.package {
                    (format!("port.{other}"), self.dice.chance(40) && self.done.len() < 5)
                } else {
                    (other.to_string(), false)
                };
                let from = if relative { format!(".{other}") } else { full.clone() };
                match way {
                    0 if self.package => (format!("from port import {other}"), through(other)),
                    0 => (format!("import {other}"), through(other)),
                    1 if self.package => (format!("import {full} as mod_{other}"), through(&format!("mod_{other}"))),
                    1 => (format!("import {other} as mod_{other}"), through(&format!("mod_{other}"))),
                    2 => {
                        let first = &some[0];
                        (format!("from {from} import {first} as own_{first}"), vec![format!("own_{first}")])
                    }
                    _ => (format!("from {from} import {}", some.join(", ")), some),
                }
            }
            Kind::Modules => match way {
                0 => (format!("import * as {other} from './{other}.mjs';"), through(other)),
                1 => {
                    let first = &some[0];
                    (format!("import {{ {first} as own_{first} }} from './{other}.mjs';"), vec![format!("own_{first}")])
                }
                _ => (format!("import {{ {} }} from './{other}.mjs';", some.join(", ")), some),
            },
            Kind::Required => match way {
                0 => (format!("const {other} = require('./{other}');"), through(other)),
                1 => {
                    let first = &some[0];
                    (format!("const own_{first} = require('./{other}').{first};"), vec![format!("own_{first}")])
                }
                _ => (format!("const {{ {} }} = require('./{other}');", some.join(", ")), some),
            },
        }
    }

    fn main(&mut self) -> String {
        let package = std::mem::replace(&mut self.package, false);
        let (mut lines, mut shows) = (Vec::new(), Vec::new());
        for (other, names) in self.done.clone() {
            let (line, there) = if package {
                (format!("from port.{other} import {}", names.join(", ")), names)
            } else {
                self.import(&other, &names, "main")
            };
            lines.push(line);
            shows.extend(there.iter().map(|n| self.print(&self.shown(n))));
        }
        self.package = package;
        format!("{}\n\n{}", lines.join("\n"), shows.concat())
    }
}
