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

/// Of `local m = require("m")` and of a call of `require` alone.
pub fn imports(t: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
    let calls = t.subtree(statement).filter(|n| t.role(*n) == Role::Call);
    calls.filter_map(|c| required(t, c, text)).collect()
}

/// The table that a file gives to whoever loads it: the local that it returns at its end.
pub fn returned<'s>(t: &Tree, text: &'s str) -> Option<&'s str> {
    let last = t.children(Tree::ROOT).last().filter(|n| t.role(*n) == Role::Return)?;
    let value = t.children(last).next().filter(|v| t.role(*v) == Role::Name)?;
    Some(t.text(value, text))
}

pub fn system(t: &Tree, text: &str) -> Option<&'static str> {
    let requires = |n: NodeId| t.role(n) == Role::Declare && t.text(n, text).contains("require");
    let is_module = returned(t, text).is_some() || t.children(Tree::ROOT).any(requires);
    is_module.then_some("require")
}

pub fn export_line(source: &Source, name: &str) -> Option<String> {
    let table = returned(&source.tree, &source.text)?;
    Some(format!("{table}.{name} = {name}"))
}

pub fn import_line(from: &Source, to: &ModuleName, name: &str) -> Option<String> {
    let own = from.module.as_ref()?;
    if own.base != to.base && !to.base.is_empty() {
        return None;
    }
    let quote = if from.text.contains("require(\"") || from.text.contains("require \"") { '"' } else { '\'' };
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
