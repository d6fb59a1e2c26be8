//! Small random Java programs of several packages, whose classes extend and make each other, and keep some of their members
//! for their package, for themselves or for those below: with overloads, inner classes, several classes in a file, and names
//! by imports, by all of a package, by paths, or by the package alone.

use std::collections::BTreeSet;

use super::Dice;

pub struct Program {
    pub files: Vec<(String, String)>,
    /// Classes with their packages and files.
    pub classes: Vec<(&'static str, &'static str, String)>,
}

const CLASSES: [&str; 6] = ["Fees", "Dues", "Berth", "Tide", "Crane", "Buoy"];
pub const PACKAGES: [&str; 3] = ["port", "desk", "yard"];
const NAMES: [&str; 5] = ["due", "net", "rate", "top", "low"];
const FIELDS: [&str; 2] = ["base", "size"];

/// The class inside each of them.
pub const INNER: [&str; 6] = ["Row", "Cell", "Line", "Mark", "Item", "Slot"];

/// Who may name a member, from fewest to most.
const REACH: [&str; 4] = ["private ", "", "protected ", "public "];

struct Function {
    name: usize,
    reach: usize,
    of_class: bool,
    parameters: &'static str,
}

struct Class {
    package: &'static str,
    /// The class in whose file it stands.
    beside: Option<usize>,
    open: bool,
    above: Option<usize>,
    /// None: the one that the language gives it.
    constructor: Option<usize>,
    functions: Vec<Function>,
    fields: Vec<(usize, usize, bool)>,
    inner: Option<usize>,
}

struct World(Vec<Class>);

impl World {
    fn near(&self, a: usize, b: usize) -> bool {
        self.0[a].package == self.0[b].package
    }

    fn sees(&self, a: usize, b: usize) -> bool {
        self.near(a, b) || self.0[b].open
    }

    fn constructor(&self, c: usize) -> usize {
        self.0[c].constructor.unwrap_or(if self.0[c].open { 3 } else { 1 })
    }

    /// It and those above, from below.
    fn line(&self, c: usize) -> Vec<usize> {
        std::iter::successors(Some(c), |x| self.0[*x].above).collect()
    }

    /// A member of `b` is seen in `a`; `own`: asked of its own object.
    fn reaches(&self, a: usize, b: usize, reach: usize, own: bool) -> bool {
        match reach {
            _ if a == b => true,
            0 => false,
            _ if self.near(a, b) => true,
            3 => self.0[b].open,
            _ => reach == 2 && own && self.line(a).contains(&b),
        }
    }

    /// Members of a line of classes that one of them alone has: owner, name, whether the class's, parameters.
    fn members(&self, c: usize) -> Vec<(usize, &'static str, usize, bool, Option<&'static str>)> {
        let line = self.line(c);
        let once = |name: &str, d: usize| {
            let has = |e: usize| {
                let x = &self.0[e];
                x.functions.iter().any(|f| NAMES[f.name] == name) || x.fields.iter().any(|f| FIELDS[f.0] == name)
            };
            !line.iter().any(|e| *e != d && has(*e))
        };
        let mut out = Vec::new();
        for d in &line {
            for f in self.0[*d].functions.iter().filter(|f| once(NAMES[f.name], *d)) {
                out.push((*d, NAMES[f.name], f.reach, f.of_class, Some(f.parameters)));
            }
            for (name, reach, of_class) in self.0[*d].fields.iter().filter(|f| once(FIELDS[f.0], *d)) {
                out.push((*d, FIELDS[*name], *reach, *of_class, None));
            }
        }
        out
    }

    fn add(&mut self, dice: &mut Dice) {
        let (i, package) = (self.0.len(), dice.pick(&PACKAGES));
        let cousins: Vec<usize> =
            (0..i).filter(|c| self.0[*c].package == package && self.0[*c].beside.is_none()).collect();
        let beside =
            (!cousins.is_empty() && dice.chance(25)).then(|| cousins[dice.roll(cousins.len() as u64) as usize]);
        let open = beside.is_none() && dice.chance(90);
        let constructor = [Some(3), Some(3), Some(1), Some(2), None][dice.roll(5) as usize];
        let inner = dice.chance(30).then(|| dice.roll(4) as usize);
        let mut own =
            Class { package, beside, open, above: None, constructor, functions: vec![], fields: vec![], inner };
        for name in 0..FIELDS.len() {
            if dice.chance(50) {
                own.fields.push((name, [3, 3, 3, 0, 1, 2][dice.roll(6) as usize], dice.chance(40)));
            }
        }
        self.0.push(own);
        if i > 0 && dice.chance(50) {
            let above = dice.roll(i as u64) as usize;
            let made = self.near(i, above) || self.constructor(above) > 1;
            self.0[i].above = (self.sees(i, above) && made).then_some(above);
        }
        for name in 0..NAMES.len() {
            if dice.chance(40) {
                self.function(dice, i, name);
            }
        }
    }

    /// A function that fits those that it overrides.
    fn function(&mut self, dice: &mut Dice, i: usize, name: usize) {
        let (mut reach, mut of_class) = ([3, 3, 3, 3, 1, 2, 0][dice.roll(7) as usize], dice.chance(35));
        let line = self.line(i);
        let seen = |f: &&Function, d: usize| f.name == name && (f.reach > 1 || f.reach == 1 && self.near(i, d));
        let above: Vec<(usize, bool)> = line[1..]
            .iter()
            .flat_map(|d| self.0[*d].functions.iter().filter(move |f| seen(f, *d)))
            .map(|f| (f.reach, f.of_class))
            .collect();
        for (r, c) in &above {
            (reach, of_class) = (reach.max(*r), *c);
        }
        if above.iter().any(|a| a.1 != of_class) {
            return;
        }
        self.0[i].functions.push(Function { name, reach, of_class, parameters: "int n" });
        if above.is_empty() && dice.chance(20) {
            let parameters = dice.pick(&["long k", "int n, int o"]);
            let reach = [3, 1, 2][dice.roll(3) as usize];
            self.0[i].functions.push(Function { name, reach, of_class, parameters });
        }
    }
}

struct Writer<'a> {
    dice: &'a mut Dice,
    world: &'a World,
    own: usize,
    imports: BTreeSet<String>,
}

impl Writer<'_> {
    fn class(&mut self, d: usize) -> String {
        let (name, package) = (CLASSES[d], self.world.0[d].package);
        if self.world.near(self.own, d) && self.dice.chance(85) {
            return name.into();
        }
        match self.dice.roll(5) {
            0 => return format!("{package}.{name}"),
            1 if !self.world.near(self.own, d) => self.imports.insert(format!("import {package}.*;")),
            _ if !self.world.near(self.own, d) => self.imports.insert(format!("import {package}.{name};")),
            _ => false,
        };
        name.into()
    }

    fn values(&mut self, parameters: &str) -> &'static str {
        match parameters {
            "int n" => "(n)",
            "long k" => self.dice.pick(&["(3L)", "(n)"]),
            _ => "(n, 2)",
        }
    }

    fn value(&mut self, name: usize, of_class: bool) -> String {
        let (w, own) = (self.world, self.own);
        let roll = self.dice.roll(100);
        if roll < 25 {
            return self.dice.pick(&["n", "2", "7"]).to_string();
        }
        if roll < 32 && name < NAMES.len() && w.0[own].inner.is_some() {
            let path = if self.dice.chance(30) { format!("{}.", CLASSES[own]) } else { String::new() };
            let member = self.dice.pick(&["kept", "metres"]);
            return format!("new {path}{}().{member}", INNER[own]);
        }
        if roll < 50 {
            // a function calls those that come behind it, so that all ends
            let later = |m: &str| NAMES.iter().position(|x| *x == m).is_none_or(|at| at > name || name == NAMES.len());
            let mut all = w.members(own);
            all.retain(|m| (m.3 || !of_class) && later(m.1) && w.reaches(own, m.0, m.2, true) && m.4 != Some("long k"));
            if !all.is_empty() {
                let m = all[self.dice.roll(all.len() as u64) as usize];
                let this = if !of_class && self.dice.chance(40) { "this." } else { "" };
                return format!("{this}{}{}", m.1, m.4.map_or("", |p| self.values(p)));
            }
        }
        let lower: Vec<usize> = (0..own).filter(|d| w.line(*d).iter().all(|e| w.sees(own, *e))).collect();
        if lower.is_empty() {
            return format!("(n + {})", 1 + self.dice.roll(9));
        }
        let d = lower[self.dice.roll(lower.len() as u64) as usize];
        let made = w.constructor(d) == 3 || w.near(own, d);
        let mut all = w.members(d);
        all.retain(|m| (m.3 || made) && w.reaches(own, m.0, m.2, false));
        if all.is_empty() {
            let inner = w.0[d].inner.filter(|r| *r == 3 || *r > 0 && w.near(own, d));
            let class = self.class(d);
            return inner.map_or("4".into(), |_| format!("new {class}.{}().metres", INNER[d]));
        }
        let m = all[self.dice.roll(all.len() as u64) as usize];
        let class = self.class(d);
        let object = if m.3 { class } else { format!("new {class}()") };
        format!("{object}.{}{}", m.1, m.4.map_or("", |p| self.values(p)))
    }

    fn text(&mut self) -> String {
        let (w, own) = (self.world, self.own);
        let c = &w.0[own];
        let mut parts = Vec::new();
        for (name, reach, of_class) in &c.fields {
            let word = if *of_class { "static " } else { "" };
            parts.push(format!("    {}{word}int {} = {};", REACH[*reach], FIELDS[*name], 1 + self.dice.roll(9)));
        }
        parts.extend(c.constructor.map(|r| format!("    {}{}() {{\n    }}", REACH[r], CLASSES[own])));
        for f in &c.functions {
            let word = if f.of_class { "static " } else { "" };
            let n = if f.parameters == "long k" { "        int n = (int) k;\n" } else { "" };
            let value = format!("{} * 3 + {}", self.value(f.name, f.of_class), self.value(f.name, f.of_class));
            let head = format!("    {}{word}int {}({})", REACH[f.reach], NAMES[f.name], f.parameters);
            parts.push(format!("{head} {{\n{n}        return {value} + {};\n    }}", f.parameters.len()));
        }
        if let Some(r) = c.inner {
            let word = REACH[if r == 3 { 3 } else { 1 }];
            let field = format!("        {word}int metres = 5;\n        private int kept = 2;");
            let make = format!("        {word}{}() {{\n        }}", INNER[own]);
            // it sees what is private around it
            let value = self.value(NAMES.len(), true);
            let of = format!("        {word}int of(int n) {{\n            return {value} + kept;\n        }}");
            parts.push(format!("    {}static class {} {{\n{field}\n\n{make}\n\n{of}\n    }}", REACH[r], INNER[own]));
        }
        let above = c.above.map_or(String::new(), |a| format!(" extends {}", self.class(a)));
        let open = if c.open { "public " } else { "" };
        format!("{open}class {}{above} {{\n{}\n}}\n", CLASSES[own], parts.join("\n\n"))
    }
}

/// A class of each package that prints what it sees there.
fn runner(w: &World, package: &str) -> String {
    let mut lines = String::new();
    for i in (0..CLASSES.len()).filter(|i| w.0[*i].package == package) {
        let of = |of_class: bool| if of_class { CLASSES[i].into() } else { format!("new {}()", CLASSES[i]) };
        for f in w.0[i].functions.iter().filter(|f| f.reach > 0) {
            let values = if f.parameters.contains(',') { "3, 4" } else { "3" };
            lines.push_str(&format!("        System.out.println({}.{}({values}));\n", of(f.of_class), NAMES[f.name]));
        }
        if w.0[i].inner.is_some_and(|r| r > 0) {
            lines.push_str(&format!("        System.out.println(new {}.{}().of(3));\n", CLASSES[i], INNER[i]));
        }
        for (name, _, of_class) in w.0[i].fields.iter().filter(|f| f.1 > 0) {
            lines.push_str(&format!("        System.out.println({}.{});\n", of(*of_class), FIELDS[*name]));
        }
    }
    format!("package {package};\n\npublic class Run {{\n    public static void all() {{\n{lines}    }}\n}}\n")
}

pub fn program(seed: u64) -> Program {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let mut world = World(Vec::new());
    CLASSES.iter().for_each(|_| world.add(&mut dice));
    let mut texts: Vec<(BTreeSet<String>, String)> = Vec::new();
    for own in 0..CLASSES.len() {
        let mut writer = Writer { dice: &mut dice, world: &world, own, imports: BTreeSet::new() };
        let text = writer.text();
        texts.push((writer.imports, text));
    }
    let home = |i: usize| world.0[i].beside.unwrap_or(i);
    let path = |i: usize| format!("{}/{}.java", world.0[i].package, CLASSES[home(i)]);
    let mut files: Vec<(String, String)> = Vec::new();
    for i in (0..CLASSES.len()).filter(|i| home(*i) == *i) {
        let all: Vec<usize> = (0..CLASSES.len()).filter(|c| home(*c) == i).collect();
        let imports: BTreeSet<&String> = all.iter().flat_map(|c| &texts[*c].0).collect();
        let imports: String = imports.iter().map(|l| format!("{l}\n")).collect();
        let classes: Vec<&str> = all.iter().map(|c| texts[*c].1.as_str()).collect();
        files.push((path(i), format!("package {};\n\n{imports}\n{}", world.0[i].package, classes.join("\n"))));
    }
    files.extend(PACKAGES.iter().map(|p| (format!("{p}/Run.java"), runner(&world, p))));
    let calls: String = PACKAGES.iter().map(|p| format!("        {p}.Run.all();\n")).collect();
    let main = format!("public class Main {{\n    public static void main(String[] args) {{\n{calls}    }}\n}}\n");
    files.push(("Main.java".into(), main));
    let classes = (0..CLASSES.len()).map(|i| (CLASSES[i], world.0[i].package, path(i))).collect();
    Program { files, classes }
}
