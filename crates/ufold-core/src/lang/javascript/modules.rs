//! How files import each other: by relative paths, with or without their extension, folders by their index file.
//!
//! Imports start from the folder that holds `src`, `lib` or the tests, so that the packages of one repository stay
//! apart. Fails for names mapped by bundlers and by `paths` of a TypeScript configuration: those count as foreign.

use super::scopes::required;
use super::style::Style;
use crate::lang::{Following, KeptName, ModuleName, Passed};
use crate::names::{BindingId, ImportRef, Source};
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

const EXTENSIONS: &[&str] = &["ts", "tsx", "mts", "cts", "js", "jsx", "mjs", "cjs"];
/// Folders inside a package.
const INNER: &[&str] = &["src", "lib", "test", "tests", "__tests__", "app", "scripts", "bin", "benchmarks", "examples"];

pub fn module_name(path: &str) -> Option<ModuleName> {
    let parts: Vec<&str> = path.split('/').collect();
    let keep = parts.iter().position(|p| INNER.contains(p)).unwrap_or(0);
    let base = parts[..keep].join("/");
    let rest = parts[keep..].iter().map(|p| p.to_string()).collect();
    path.rsplit_once('.').filter(|(_, e)| EXTENSIONS.contains(e))?;
    Some(ModuleName { base, parts: rest, is_package: false, in_package: true })
}

fn is_ours(module: &str) -> bool {
    module.starts_with("./") || module.starts_with("../") || module == "." || module == ".."
}

/// A path with its `.` and `..` followed; none when it leaves the root.
fn joined(folder: &str, relative: &str) -> Option<String> {
    let mut parts: Vec<&str> = folder.split('/').filter(|p| !p.is_empty()).collect();
    for p in relative.split('/') {
        match p {
            "." | "" => {}
            ".." => {
                parts.pop()?;
            }
            p => parts.push(p),
        }
    }
    Some(parts.join("/"))
}

pub fn resolve(path: &str, import: &ImportRef) -> Vec<String> {
    if !is_ours(&import.module) {
        return Vec::new();
    }
    let folder = path.rsplit_once('/').map_or("", |p| p.0);
    let Some(target) = joined(folder, &import.module) else { return Vec::new() };
    let mut out = vec![target.clone()];
    // written with the extension of what it compiles to
    if let Some((stem, "js" | "mjs" | "cjs" | "jsx")) = target.rsplit_once('.') {
        out.extend(["ts", "tsx", "mts", "cts"].iter().map(|e| format!("{stem}.{e}")));
    }
    out.extend(EXTENSIONS.iter().map(|e| format!("{target}.{e}")));
    let folder = if target.is_empty() { String::new() } else { format!("{target}/") };
    out.extend(EXTENSIONS.iter().map(|e| format!("{folder}index.{e}")));
    out
}

/// `import` for files with statements of that kind, `require` for those that fill `exports`, or by their ending.
pub fn system(path: &str, tree: &Tree, text: &str) -> Option<&'static str> {
    let (mut found, mut strict) = (None, false);
    match path.rsplit_once('.').map_or("", |p| p.1) {
        "mjs" | "mts" => return Some("import"),
        "cjs" | "cts" => found = Some("require"),
        _ => {}
    }
    for s in tree.children(Tree::ROOT) {
        let own = tree.text(s, text);
        match tree.role(s) {
            Role::Decorated | Role::ImportFrom if own.starts_with("export") || own.starts_with("import") => {
                return Some("import");
            }
            Role::ExprStmt if own.starts_with("module.exports") || own.starts_with("exports.") => {
                found = Some("require")
            }
            Role::Declare if own.contains("require(") => found = found.or(Some("require")),
            Role::Doc => strict |= own.trim_end_matches(';').trim_matches(['"', '\'']) == "use strict",
            _ => {}
        }
    }
    // code of the two modes does not mix
    if strict { found.map(|_| "require strict") } else { found }
}

/// Code of modules and classes, and below a directive that says so, is read strictly.
pub fn is_strict(source: &Source, place: NodeId, typed: bool) -> bool {
    let t = &source.tree;
    let says = |n: NodeId| {
        let body = t.child(n, Field::Body).unwrap_or(n);
        let first = t.children(body).take_while(|c| t.role(*c) == Role::Doc);
        first.into_iter().any(|c| source.str(c).trim_end_matches(';').trim_matches(['"', '\'']) == "use strict")
    };
    let around = || std::iter::once(place).chain(t.ancestors(place));
    typed
        || system(&source.path, t, &source.text) == Some("import")
        || around().any(|a| t.role(a) == Role::Class || (a == Tree::ROOT || t.role(a).is_callable()) && says(a))
}

/// How others get at a name of a module.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Export {
    ByName,
    /// As the module's default, or under another name.
    Otherwise,
}

pub fn export_of(source: &Source, b: BindingId) -> Option<Export> {
    let t = &source.tree;
    let marked = |n: NodeId| {
        let around = t.ancestors(n).take_while(|a| *a != Tree::ROOT).find(|a| t.role(*a) == Role::Decorated);
        around.filter(|d| source.str(*d).starts_with("export") && t.parent(*d) == Some(Tree::ROOT))
    };
    let first = source.names.binding(b).first;
    let whole = |d: &NodeId| !t.ancestors(first).take_while(|a| a > d).any(|a| t.role(a) == Role::Block);
    if let Some(d) = marked(first).filter(whole) {
        let after = source.str(d)["export".len()..].trim_start();
        return Some(if after.starts_with("default") { Export::Otherwise } else { Export::ByName });
    }
    let how = source.names.references_to(b).filter(|r| marked(r.node).is_some()).filter_map(|r| {
        let around = t.parent(r.node)?;
        match t.role(around) {
            Role::ImportAlias if t.child(around, crate::tree::Field::Alias).is_none() => Some(Export::ByName),
            Role::ImportAlias | Role::Decorated => Some(Export::Otherwise),
            _ => None,
        }
    });
    how.min_by_key(|e| *e == Export::Otherwise)
}

/// What is exported may be closed to new members, or be a function that would get one.
pub fn can_export(source: &Source) -> bool {
    let t = &source.tree;
    t.children(Tree::ROOT).filter(|s| source.str(*s).starts_with("module.exports =")).all(|s| {
        let assign = t.children(s).find(|c| t.role(*c) == Role::Assign);
        let value = assign.and_then(|a| t.child(a, Field::Right));
        let open = value.is_some_and(|v| matches!(t.role(v), Role::Dict | Role::Name | Role::Assign));
        open && !source.text.contains("freeze(") && !source.text.contains("seal(")
    })
}

pub fn export_line(source: &Source, like: &Source, name: &str) -> Option<String> {
    if !system(&like.path, &like.tree, &like.text)?.starts_with("require") {
        return None;
    }
    let t = &source.tree;
    if t.children(Tree::ROOT).next().is_none() {
        return Some(format!("\nmodule.exports = {{ {name} }}{}", Style::of(like).end()));
    }
    let replaced = t.children(Tree::ROOT).any(|s| {
        let own = source.str(s);
        own.starts_with("module.exports =") || own.contains("= module.exports =")
    });
    let object = if replaced { "module.exports" } else { "exports" };
    Some(format!("{object}.{name} = {name}{}", Style::of(source).end()))
}

pub fn import_line(from: &Source, to: &ModuleName, name: &str) -> Option<String> {
    let own = from.module.as_ref()?;
    if own.base != to.base {
        return None;
    }
    let t = &from.tree;
    let common = own.parts[..own.parts.len() - 1].iter().zip(&to.parts).take_while(|(a, b)| a == b).count();
    let up = own.parts.len() - 1 - common;
    let head = if up == 0 { "./".to_string() } else { "../".repeat(up) };
    let file = to.parts[common..].join("/");
    let (stem, extension) = file.rsplit_once('.')?;
    let habit = t.children(Tree::ROOT).filter(|s| t.role(*s) == Role::ImportFrom).find_map(|s| {
        let source = t.subtree(s).find(|n| t.field(*n) == crate::tree::Field::Source)?;
        let module = from.str(source).trim_matches(['"', '\'']);
        let last = module.rsplit('/').next()?;
        is_ours(module)
            .then(|| last.rsplit_once('.').map(|p| p.1.to_string()).filter(|e| EXTENSIONS.contains(&e.as_str())))
    });
    let script = matches!(extension, "js" | "mjs" | "cjs");
    let ending = match habit {
        Some(None) => String::new(),
        // the compiled file's extension is the one that is imported
        Some(Some(e)) if e == "js" || e == "ts" => format!(".{}", if script || e == "ts" { extension } else { "js" }),
        Some(Some(_)) => format!(".{extension}"),
        None if script => format!(".{extension}"),
        None => String::new(),
    };
    let style = Style::of(from);
    if system(&from.path, t, &from.text).is_some_and(|s| s.starts_with("require")) {
        // the same word as the file's other declarations
        let begins = |word: &str| t.children(Tree::ROOT).any(|s| from.str(s).starts_with(word));
        let newer = ["const ", "let ", "=>"].iter().any(|w| from.text.contains(w));
        let word = if newer || !begins("var ") { "const" } else { "var" };
        let (q, end) = (style.quote, style.end());
        let path = format!("{head}{}{q})", if required_with_extension(from) { file.clone() } else { stem.to_string() });
        return Some(if word == "const" {
            format!("const {{ {name} }} = require({q}{path}{end}")
        } else {
            format!("var {name} = require({q}{path}.{name}{end}")
        });
    }
    Some(format!("import {{ {name} }} from {q}{head}{stem}{ending}{q}{end}", q = style.quote, end = style.end()))
}

fn required_with_extension(from: &Source) -> bool {
    let t = &from.tree;
    let values = t.children(Tree::ROOT).flat_map(|s| t.subtree(s)).filter(|n| t.role(*n) == Role::Call);
    values.filter_map(|c| required(t, c, &from.text)).any(|m| is_ours(m) && (m.ends_with(".js") || m.ends_with(".cjs")))
}

pub fn extend_import(from: &Source, statement: NodeId, line: &str, name: &str) -> Option<Edit> {
    let t = &from.tree;
    let module = |text: &str| text.rsplit_once(" from ").map(|p| p.1.trim_end_matches(';').trim().to_string());
    let text = from.str(statement);
    // a list of names of one kind; not what is passed on, nor the file as a whole
    let word = |text: &str| text.split(['{', '*']).next().unwrap_or("").trim().to_string();
    let listed = line.contains('{') && word(text) == word(line);
    if module(text) != module(line) || !listed || text.contains('\n') {
        return None;
    }
    let list = t.subtree(statement).find(|n| t.role(*n) == Role::ImportList)?;
    let last = t.children(list).last()?;
    let end = t.span(last).end;
    Some(Edit::new(end, end, format!(", {name}")))
}

/// How a file has a name that went to another one: an import where it needs it, and an export for those who had it from here.
pub fn kept_names(kept: &KeptName) -> Vec<(String, bool)> {
    let s = kept.source;
    let ours = system(&s.path, &s.tree, &s.text) == Some("import");
    let line = if kept.is_type { kept.line.replacen("import ", "import type ", 1) } else { kept.line.to_string() };
    if !ours || !kept.passed {
        return vec![(if ours { line } else { kept.line.to_string() }, false)];
    }
    let word = if kept.is_type { "export type" } else { "export" };
    match kept.used {
        true => vec![(line, false), (format!("{word} {{ {} }}{}", kept.name, Style::of(s).end()), true)],
        false => vec![(kept.line.replacen("import", word, 1), false)],
    }
}

/// A definition that others see.
pub fn exported(like: &Source, definition: &str) -> String {
    let by_word = system(&like.path, &like.tree, &like.text).is_none_or(|s| s == "import");
    match definition.starts_with("export") || !by_word {
        true => definition.to_string(),
        false => format!("export {definition}"),
    }
}

/// The directive that a file begins with.
pub fn head_of_like(like: &Source) -> String {
    let t = &like.tree;
    let first = t.children(Tree::ROOT).next().filter(|n| t.role(*n) == Role::Doc);
    first.map_or(String::new(), |n| format!("{}\n\n", like.str(n)))
}

/// Definitions, imports, and values made without calling anything.
pub fn is_plain_top_level(tree: &Tree, statement: NodeId, text: &str) -> bool {
    match tree.role(statement) {
        Role::Function | Role::Class | Role::ImportFrom | Role::Doc | Role::Pass | Role::TypeAlias => true,
        Role::Decorated | Role::Declare => {
            let acts =
                |n: NodeId| matches!(tree.role(n), Role::Call | Role::Await) && required(tree, n, text).is_none();
            let outside =
                |n: NodeId| !tree.ancestors(n).take_while(|a| *a > statement).any(|a| tree.role(a).is_callable());
            !tree.subtree(statement).any(|n| acts(n) && outside(n))
        }
        _ => false,
    }
}

/// Every name that is assigned counts, be it a local of the name; what `require` gives is a value and follows nothing.
pub fn following(t: &Tree, text: &str) -> Following {
    let word = |n: NodeId| text[t.span(n).start..t.span(n).end].to_string();
    let mut out = Following::default();
    let modules = |s: NodeId| matches!(t.role(s), Role::Decorated | Role::ImportFrom);
    if !t.children(Tree::ROOT).any(modules) {
        return out;
    }
    let all = |s: NodeId| word(s).strip_prefix("export").is_some_and(|rest| rest.trim_start().starts_with('*'));
    out.passes_all = t.children(Tree::ROOT).any(|s| t.role(s) == Role::ImportFrom && all(s));
    for n in t.ids() {
        if t.role(n) == Role::ImportAlias {
            let of = |field| t.child(n, field).map(word);
            out.aliases.extend(of(Field::Alias).zip(of(Field::Name)));
        }
        let declares = t.parent(n).is_some_and(|p| t.role(p) == Role::Declare);
        if !t.role(n).is_loop() && (declares || !t.role(n).assigns()) {
            continue;
        }
        // what changes by one has no side
        let target = t.child(n, Field::Left).or_else(|| t.children(n).next().filter(|_| t.role(n) == Role::AugAssign));
        let target = target.filter(|l| t.role(*l) != Role::Declare);
        let names = target.into_iter().flat_map(|l| t.subtree(l)).filter(|w| t.role(*w) == Role::Name);
        let own = |w: &NodeId| !t.ancestors(*w).take_while(|a| *a >= n).any(|a| t.role(a) == Role::Member);
        out.changing.extend(names.filter(own).map(word));
    }
    out.changing.sort_unstable();
    out.changing.dedup();
    out
}

/// `export { a as b } from "./m"`, `export * from "./m"`, `export * as m from "./m"`, `module.exports = require("./m")`.
pub fn passed_on(source: &Source) -> Vec<Passed> {
    let t = &source.tree;
    let mut out = Vec::new();
    for i in t.children(Tree::ROOT) {
        let text = source.str(i);
        let import = |module: &str, member: Option<&str>| ImportRef {
            level: 0,
            module: module.to_string(),
            member: member.map(str::to_string),
            wildcard: false,
        };
        if t.role(i) == Role::ExprStmt && text.starts_with("module.exports") {
            let call = t.subtree(i).find(|n| t.role(*n) == Role::Call);
            let whole = call.filter(|c| text.trim_end_matches(';').ends_with(source.str(*c)));
            let module = whole.and_then(|c| required(t, c, &source.text));
            out.extend(module.map(|m| Passed { name: None, import: import(m, None) }));
        }
        let Some(rest) = text.strip_prefix("export").filter(|_| t.role(i) == Role::ImportFrom) else { continue };
        let Some(from) = t.subtree(i).find(|c| t.field(*c) == Field::Source) else { continue };
        let module = source.str(from).trim_matches(['"', '\'']);
        if let Some(rest) = rest.trim_start().strip_prefix('*') {
            let name =
                rest.trim_start().strip_prefix("as ").map(|r| r.split_whitespace().next().unwrap_or("").to_string());
            out.push(Passed { name, import: import(module, None) });
            continue;
        }
        for a in t.subtree(i).filter(|n| t.role(*n) == Role::ImportAlias) {
            let word = |field| t.child(a, field).map(|n| source.str(n));
            let (own, other) = (word(Field::Name), word(Field::Alias));
            out.push(Passed { name: other.or(own).map(str::to_string), import: import(module, own) });
        }
    }
    out
}
