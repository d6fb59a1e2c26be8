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
            out.extend(loaded(tree, id, text, lang).map(|import| ImportFact { import, at_load: at_load() }));
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
