//! How Python modules are named, found and imported.
//!
//! A file's module name follows the `__init__.py` chain upwards; the folder above the chain is where imports start.
//! Fails where `sys.path` or the packaging says something else: such imports resolve to nothing and count as foreign.

use crate::lang::ModuleName;
use crate::names::{ImportRef, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// The end of a name that nobody can import.
pub const NO_MODULE: &str = ".ipynb";

fn is_name(s: &str) -> bool {
    let mut c = s.chars();
    c.next().is_some_and(|c| c.is_alphabetic() || c == '_') && c.all(|c| c.is_alphanumeric() || c == '_')
}

pub fn module_name(path: &str, exists: &dyn Fn(&str) -> bool) -> Option<ModuleName> {
    let (mut dir, file) = path.rsplit_once('/').unwrap_or(("", path));
    let stem = file.strip_suffix(".py")?;
    if !is_name(stem) || ["__main__", "setup", "conftest"].contains(&stem) {
        return None;
    }
    let is_package = stem == "__init__";
    let mut parts = if is_package { Vec::new() } else { vec![stem.to_string()] };
    let mut in_package = is_package;
    while !dir.is_empty() && exists(&format!("{dir}/__init__.py")) {
        let (up, name) = dir.rsplit_once('/').unwrap_or(("", dir));
        if !is_name(name) {
            return None;
        }
        parts.insert(0, name.to_string());
        in_package = true;
        dir = up;
    }
    (!parts.is_empty()).then(|| ModuleName { base: dir.to_string(), parts, is_package, in_package })
}

fn join(base: &str, parts: &[&str]) -> String {
    let mut s = base.to_string();
    for p in parts {
        if !s.is_empty() {
            s.push('/');
        }
        s.push_str(p);
    }
    s
}

/// The module's file first; for `from a import b` also the file of a submodule `a.b`.
pub fn resolve_import(from: &ModuleName, path: &str, import: &ImportRef) -> Vec<String> {
    let named: Vec<&str> = import.module.split('.').filter(|p| !p.is_empty()).collect();
    let mut bases = Vec::new();
    let mut head: Vec<&str> = Vec::new();
    if import.level > 0 {
        let own = from.parts.len() - usize::from(!from.is_package && !from.parts.is_empty());
        let Some(keep) = own.checked_sub(import.level as usize - 1) else { return Vec::new() };
        head.extend(from.parts[..keep].iter().map(String::as_str));
        bases.push(from.base.clone());
    } else {
        bases.push(from.base.clone());
        for extra in ["", "src", "lib", path.rsplit_once('/').map_or("", |p| p.0)] {
            if !bases.iter().any(|b| b == extra) {
                bases.push(extra.to_string());
            }
        }
    }
    head.extend(named);
    let mut out = Vec::new();
    for base in &bases {
        let mut tries = Vec::new();
        if let Some(m) = import.member.as_deref() {
            let mut with = head.clone();
            with.push(m);
            tries.push(with);
        }
        tries.push(head.clone());
        for t in tries {
            out.push(format!("{}.py", join(base, &t)));
            out.push(join(base, &[&t[..], &["__init__.py"]].concat()));
        }
    }
    out
}

pub fn import_line(from: &ModuleName, to: &ModuleName, name: &str, relative: bool) -> Option<String> {
    if to.base != from.base || to.parts.last().is_some_and(|p| p.ends_with(NO_MODULE)) {
        return None;
    }
    if relative && from.in_package && from.parts.first() == to.parts.first() {
        let own = from.parts.len() - usize::from(!from.is_package);
        let common = from.parts[..own].iter().zip(&to.parts).take_while(|(a, b)| a == b).count();
        let dots = ".".repeat(own - common + 1);
        return Some(format!("from {dots}{} import {name}", to.parts[common..].join(".")));
    }
    Some(format!("from {} import {name}", to.parts.join(".")))
}

/// `import a.b` binds `a`, and loads `a.b` too.
pub fn loaded_by(t: &Tree, statement: NodeId, text: &str, mut bound: Vec<ImportRef>) -> Vec<ImportRef> {
    if t.role(statement) == Role::Import {
        let paths = t.children(statement).filter(|c| t.role(*c) == Role::DottedName);
        let whole = paths.map(|p| t.text(p, text)).filter(|p| p.contains('.'));
        bound.extend(whole.map(|p| ImportRef { level: 0, module: p.into(), member: None, wildcard: false }));
    }
    bound
}

/// The lines by which a file is read as by a later edition of the language.
pub fn future_imports(source: &Source) -> Vec<String> {
    let t = &source.tree;
    let own = t.children(Tree::ROOT).filter(|n| source.str(*n).starts_with("from __future__ "));
    own.map(|n| format!("{}\n", source.str(n))).collect()
}

/// Definitions, imports and assignments of plain values.
pub fn is_plain_top_level(tree: &Tree, statement: NodeId, text: &str) -> bool {
    match tree.role(statement) {
        Role::Function | Role::Class | Role::Import | Role::ImportFrom | Role::Doc | Role::Pass => true,
        Role::Decorated => true,
        Role::If => tree
            .child(statement, Field::Condition)
            .is_some_and(|c| tree.text(c, text).contains("__name__") || tree.text(c, text).contains("TYPE_CHECKING")),
        Role::ExprStmt => !tree.subtree(statement).any(|n| matches!(tree.role(n), Role::Call | Role::Await)),
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn name(path: &str) -> Option<ModuleName> {
        let files = ["src/port/__init__.py", "src/port/fees/__init__.py"];
        module_name(path, &|p| files.contains(&p))
    }

    #[test]
    fn modules_are_named_by_their_packages() {
        let tide = name("src/port/fees/tide.py").unwrap();
        assert_eq!((tide.base.as_str(), tide.parts.join(".")), ("src", "port.fees.tide".to_string()));
        assert_eq!(name("src/port/__main__.py"), None);
        assert_eq!(name("tools/make-table.py"), None);
        assert!(!name("tools/table.py").unwrap().in_package);
    }

    #[test]
    fn imports_are_written_in_the_habit_of_the_file() {
        let tide = name("src/port/fees/tide.py").unwrap();
        let berth = name("src/port/berth.py").unwrap();
        assert_eq!(import_line(&tide, &berth, "x", true).unwrap(), "from ..berth import x");
        assert_eq!(import_line(&berth, &tide, "x", true).unwrap(), "from .fees.tide import x");
        assert_eq!(import_line(&berth, &tide, "x", false).unwrap(), "from port.fees.tide import x");
        assert_eq!(import_line(&berth, &name("tools/table.py").unwrap(), "x", false), None);
    }

    #[test]
    fn relative_imports_find_their_files() {
        let tide = name("src/port/fees/tide.py").unwrap();
        let import = ImportRef { level: 2, module: "berth".into(), member: Some("length".into()), wildcard: false };
        assert!(resolve_import(&tide, "src/port/fees/tide.py", &import).contains(&"src/port/berth.py".to_string()));
    }
}
