//! How files find each other: `require("a.b")` looks for `a/b.lua` and `a/b/init.lua` on a path that the program sets.
//!
//! The path is not known; the usual folders are tried. A module is a table that its file returns.

use super::scopes::required;
use crate::lang::ModuleName;
use crate::names::{ImportRef, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// Folders that stand on the path of most programs.
const ROOTS: &[&str] = &["", "src/", "lib/", "lua/", "tests/", "test/", "spec/"];

pub fn module_name(path: &str) -> Option<ModuleName> {
    let stem = path.strip_suffix(".lua")?;
    let root = ROOTS.iter().filter(|r| !r.is_empty()).find(|r| stem.starts_with(**r)).copied().unwrap_or("");
    let mut parts: Vec<String> = stem[root.len()..].split('/').map(str::to_string).collect();
    let is_package = parts.len() > 1 && parts.last().is_some_and(|p| p == "init");
    if is_package {
        parts.pop();
    }
    Some(ModuleName { base: root.trim_end_matches('/').to_string(), parts, is_package, in_package: false })
}

pub fn resolve(_from: &ModuleName, import: &ImportRef) -> Vec<String> {
    let path = import.module.replace('.', "/");
    let files = ROOTS.iter().flat_map(|r| [format!("{r}{path}.lua"), format!("{r}{path}/init.lua")]);
    files.collect()
}

/// Of `local m = require("m")`, and of a call of `require` alone.
pub fn imports(t: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
    let value = match t.role(statement) {
        Role::Declare => t.child_of_role(statement, Role::Assign).and_then(|a| t.child(a, Field::Right)),
        Role::ExprStmt => t.children(statement).next(),
        _ => None,
    };
    value.and_then(|v| required(t, v, text)).into_iter().collect()
}

/// The table that a file gives to whoever loads it: a local that it makes, and returns at its end.
pub fn returned<'s>(t: &Tree, text: &'s str) -> Option<&'s str> {
    let word = |n: NodeId| t.text(n, text);
    let last = t.children(Tree::ROOT).last().filter(|n| t.role(*n) == Role::Return)?;
    let mut value = t.children(last).next()?;
    // it gives its first argument
    let sets = |c: &NodeId| t.child(*c, Field::Callee).is_some_and(|f| word(f) == "setmetatable");
    if sets(&value) && !text.contains("__newindex") {
        value = t.child(value, Field::Arguments).and_then(|a| t.children(a).next())?;
    }
    let name = Some(word(value)).filter(|_| t.role(value) == Role::Name)?;
    let is_made = |d: NodeId| {
        let assign = t.child_of_role(d, Role::Assign).filter(|_| t.role(d) == Role::Declare);
        let sides = assign.and_then(|a| t.child(a, Field::Left).zip(t.child(a, Field::Right)));
        sides.is_some_and(|(l, r)| word(l) == name && matches!(t.role(r), Role::Dict | Role::List))
    };
    (t.children(Tree::ROOT).filter(|d| is_made(*d)).count() == 1).then_some(name)
}

pub fn system(t: &Tree, text: &str) -> Option<&'static str> {
    let requires = |n: NodeId| t.role(n) == Role::Declare && t.text(n, text).contains("require");
    let is_module = returned(t, text).is_some() || t.children(Tree::ROOT).any(requires);
    is_module.then_some("require")
}

pub fn export_line(source: &Source, name: &str) -> Option<String> {
    let table = returned(&source.tree, &source.text)?;
    Some(format!("\n{table}.{name} = {name}{}", super::write::end(source)))
}

/// Before the table is returned.
pub fn exports_at(source: &Source) -> usize {
    let t = &source.tree;
    let all: Vec<NodeId> = t.children(Tree::ROOT).collect();
    let before = all.len().checked_sub(2).map(|i| t.span(all[i]).end);
    let end = before.filter(|_| returned(t, &source.text).is_some());
    end.map_or(source.text.trim_end().len(), |e| source.text[e..].find('\n').map_or(e, |k| e + k))
}

pub fn import_line(from: &Source, to: &ModuleName, name: &str) -> Option<String> {
    let own = from.module.as_ref()?;
    if own.base != to.base && !to.base.is_empty() {
        return None;
    }
    let count = |q: char| from.text.matches(q).count();
    let quote = if count('\'') > count('"') { '\'' } else { '"' };
    Some(format!("local {name} = require({quote}{}{quote}).{name}", to.parts.join(".")))
}

/// Definitions, imports, and values made without calling anything.
pub fn is_plain_top_level(t: &Tree, statement: NodeId, text: &str) -> bool {
    let acts = |n: NodeId| t.role(n) == Role::Call && required(t, n, text).is_none();
    let outside = |n: NodeId| !t.ancestors(n).take_while(|a| *a > statement).any(|a| t.role(a).is_callable());
    match t.role(statement) {
        Role::Function | Role::Doc | Role::Pass | Role::Return => true,
        Role::Declare => !t.subtree(statement).any(|n| acts(n) && outside(n)),
        // `function M.f()`
        Role::ExprStmt => t.child_of_role(statement, Role::Assign).is_some_and(|a| {
            t.child(a, Field::Left).is_some_and(|l| t.role(l) == Role::Member)
                && t.child(a, Field::Right).is_some_and(|r| t.role(r).is_callable())
        }),
        _ => false,
    }
}
