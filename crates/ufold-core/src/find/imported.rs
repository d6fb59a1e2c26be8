//! What a file imports, wherever in it.

use serde::{Deserialize, Serialize};

use crate::lang::Language;
use crate::names::ImportRef;
use crate::tree::{Field, NodeId, Role, Tree};

#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct ImportFact {
    pub import: ImportRef,
    /// Runs whenever the module is loaded.
    pub at_load: bool,
}

/// The module that a call loads by its name.
fn loaded(tree: &Tree, call: NodeId, text: &str, lang: &dyn Language) -> Option<ImportRef> {
    let word = tree.text(tree.child(call, Field::Callee)?, text).rsplit('.').next()?;
    let first = tree.child(call, Field::Arguments).and_then(|a| tree.children(a).next())?;
    let known = lang.loading_words().contains(&word) && tree.role(first) == Role::Literal;
    // what a declaration names is its import
    let declares = tree
        .parent(call)
        .is_some_and(|d| tree.role(d) == Role::Assign && tree.parent(d).is_some_and(|p| tree.role(p) == Role::Declare));
    (known && !declares).then(|| lang.import_of_text(tree.text(first, text).trim_matches(['"', '\'', '`'])))
}

pub(super) fn imports(tree: &Tree, text: &str, lang: &dyn Language) -> Vec<ImportFact> {
    let roles = [Role::Import, Role::ImportFrom, Role::Declare, Role::Call];
    let mut out = Vec::new();
    for id in tree.ids().filter(|id| roles.contains(&tree.role(*id))) {
        let guarded = [Role::Function, Role::Lambda, Role::If, Role::Try];
        let at_load = || !tree.ancestors(id).any(|a| guarded.contains(&tree.role(a)));
        if tree.role(id) == Role::Call {
            // `exports.a = require("./a")`, `load(require("./a"))`
            let import = lang.load_of(tree, id, text).or_else(|| loaded(tree, id, text, lang));
            out.extend(import.map(|import| ImportFact { import, at_load: at_load() }));
            continue;
        }
        let at_load = at_load();
        let declares = tree.role(id) == Role::Declare;
        if declares
            && !tree.children(id).any(|d| tree.child(d, Field::Right).is_some_and(|r| tree.role(r) == Role::Call))
        {
            continue;
        }
        for import in lang.loaded_by(tree, id, text) {
            out.push(ImportFact { import, at_load });
        }
    }
    out
}

/// A statement that loads other files or gives names to what they have, and does nothing else: every file must.
pub(super) fn only_loads(t: &Tree, statement: NodeId, text: &str, lang: &dyn Language) -> bool {
    let computes = [Role::Lambda, Role::BinaryOp, Role::BoolOp, Role::Compare, Role::Conditional, Role::Await];
    let loads = |n: NodeId| {
        let callee = t.child(n, Field::Callee).filter(|_| t.role(n) == Role::Call);
        callee.is_some_and(|c| lang.loading_words().contains(&t.text(c, text)))
    };
    let alone = t.children(statement).next().filter(|_| t.role(statement) == Role::ExprStmt);
    let plain = |s: NodeId| t.subtree(s).any(loads) && !t.subtree(s).any(|n| computes.contains(&t.role(n)));
    alone.is_some_and(|c| t.role(c) == Role::Call && lang.load_of(t, c, text).is_some())
        || t.role(statement) == Role::Declare && plain(statement)
}
