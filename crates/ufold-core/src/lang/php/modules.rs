//! How files find each other: `require` by path, `use` by the name of a class, whose file the program's own loader finds.

use super::scopes;
use crate::lang::ModuleName;
use crate::names::{ImportRef, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// Folders that hold the code of one name space.
const ROOTS: &[&str] = &["src/", "lib/", "app/", "tests/"];

pub fn module_name(path: &str) -> Option<ModuleName> {
    let stem = path.strip_suffix(".php")?;
    let root = ROOTS.iter().find(|r| stem.starts_with(**r)).copied().unwrap_or("");
    let parts: Vec<String> = stem[root.len()..].split('/').map(str::to_string).collect();
    Some(ModuleName { base: root.trim_end_matches('/').to_string(), parts, is_package: false, in_package: false })
}

/// A class that a file names without an import stands in its own name space, which is that of its folder.
pub fn import_of_free(from: &ModuleName, name: &str) -> Option<ImportRef> {
    let is_class = name.starts_with(|c: char| c.is_ascii_uppercase());
    let module = from.package().join("\\");
    is_class.then(|| ImportRef { level: 0, module, member: Some(name.to_string()), wildcard: false })
}

pub fn resolve(from: &ModuleName, path: &str, import: &ImportRef) -> Vec<String> {
    if import.level > 0 {
        let folder = path.rsplit_once('/').map_or("", |(f, _)| f);
        return joined(folder, &import.module).into_iter().collect();
    }
    // the first part of a name space is a project's own, and stands for one of its folders
    let full = format!("{}\\{}", import.module, import.member.as_deref().unwrap_or(""));
    let parts: Vec<&str> = full.trim_matches('\\').split('\\').collect();
    let tails = (0..parts.len()).map(|k| parts[k..].join("/"));
    let bases = ROOTS.iter().map(|r| r.to_string()).chain([String::new(), format!("{}/", from.base)]);
    let bases: Vec<String> = bases.collect();
    tails.flat_map(|tail| bases.iter().map(move |b| format!("{b}{tail}.php")).collect::<Vec<_>>()).collect()
}

/// A path from a folder, without `.` and `..`.
fn joined(folder: &str, path: &str) -> Option<String> {
    let mut parts: Vec<&str> = folder.split('/').filter(|p| !p.is_empty()).collect();
    for p in path.split('/').filter(|p| !p.is_empty() && *p != ".") {
        if p == ".." {
            parts.pop()?;
        } else {
            parts.push(p);
        }
    }
    Some(parts.join("/"))
}

/// Of `use`, and of `require __DIR__ . '/a.php'`.
pub fn imports(t: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
    if t.role(statement) == Role::ImportFrom {
        return scopes::imports(t, statement, text).into_iter().map(|(_, import, _)| import).collect();
    }
    let call = t.children(statement).next().filter(|_| t.role(statement) == Role::ExprStmt);
    call.and_then(|c| required(t, c, text)).into_iter().collect()
}

/// The file that a call loads, from the folder of its own.
pub fn required(t: &Tree, call: NodeId, text: &str) -> Option<ImportRef> {
    let callee = t.child(call, Field::Callee).map(|c| t.text(c, text))?;
    let loads = callee.starts_with("require") || callee.starts_with("include");
    let argument = t.child(call, Field::Arguments).filter(|_| loads).map(|a| t.text(a, text))?;
    let path = argument.trim_matches(['(', ')', ' ']).replace("dirname(__FILE__)", "__DIR__");
    let (own, path) =
        path.strip_prefix("__DIR__").map_or((false, path.as_str()), |p| (true, p.trim_start_matches([' ', '.'])));
    let path = path.trim_matches(['"', '\'']);
    let plain = !path.is_empty() && !path.contains(['$', '"', '\'', ' ', '(']);
    // otherwise from the folder in which the program was started, or that of its first file
    let level = if own { 1 } else { 2 };
    plain.then(|| ImportRef { level, module: path.to_string(), member: None, wildcard: false })
}

/// The name space that a file says, where it says one.
pub fn said_space(s: &Source) -> Vec<String> {
    let t = &s.tree;
    let said = t.children(Tree::ROOT).find_map(|n| s.str(n).strip_prefix("namespace ").map(str::trim));
    let name = said.map_or("", |w| w.split(['{', ';', ' ', '\n']).next().unwrap_or(""));
    name.split('\\').filter(|p| !p.is_empty()).map(str::to_string).collect()
}

/// Calls convert no values.
pub fn is_strict(s: &Source) -> bool {
    let t = &s.tree;
    let says =
        |n: NodeId| t.role(n) == Role::Doc && s.str(n).starts_with("declare") && s.str(n).contains("strict_types");
    t.children(Tree::ROOT).any(|n| says(n) && s.str(n).contains('1'))
}

/// Definitions, imports, and what only gives values.
pub fn is_plain_top_level(t: &Tree, statement: NodeId, text: &str) -> bool {
    match t.role(statement) {
        Role::Function | Role::Class | Role::Doc | Role::Pass | Role::ImportFrom | Role::Declare => true,
        Role::ExprStmt => t.children(statement).next().is_some_and(|c| required(t, c, text).is_some()),
        _ => false,
    }
}
