//! Classes with the members that they declare, as facts.

use serde::{Deserialize, Serialize};

use crate::lang::Language;
use crate::text::LineIndex;
use crate::tree::{Field, NodeId, Role, Tree};

/// A class of a file's own level.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct ClassFact {
    pub name: String,
    pub members: Vec<MemberFact>,
}

/// A statement of its body that declares a name.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct MemberFact {
    /// Of its words, its name among them.
    pub exact: u64,
    pub bytes: (u32, u32),
    pub lines: (u32, u32),
    /// Names, members and literals in it.
    pub atoms: u32,
    pub function: bool,
}

/// The statements of a class's body.
pub(crate) fn body(t: &Tree, class: NodeId) -> Vec<NodeId> {
    let body = t.child(class, Field::Body);
    body.map_or(Vec::new(), |b| t.children(b).filter(|c| t.role(*c) != Role::Token).collect())
}

/// The name that a statement of a class's body declares, when it is one.
pub(crate) fn name_of(t: &Tree, statement: NodeId) -> Option<NodeId> {
    let inner = t.definition_in(statement);
    let word = |n: NodeId| Some(n).filter(|n| t.is_leaf(*n));
    match t.role(inner) {
        Role::Function => t.child(inner, Field::Name).and_then(word),
        Role::ClassField => {
            let assigned = || t.children(inner).filter(|c| t.role(*c) == Role::Assign).collect::<Vec<_>>();
            let one = || match assigned()[..] {
                [a] => t.child(a, Field::Left),
                _ => None,
            };
            t.child(inner, Field::Name).or(t.child(inner, Field::Member)).or_else(one).and_then(word)
        }
        Role::ExprStmt => {
            let assign = t.children(inner).next().filter(|a| t.role(*a) == Role::Assign)?;
            t.child(assign, Field::Left).filter(|l| t.role(*l) == Role::Name)
        }
        _ => None,
    }
}

/// The classes of a file's own level that have members.
pub(super) fn facts(t: &Tree, text: &str, lines: &LineIndex) -> Vec<ClassFact> {
    let tops = t.children(Tree::ROOT).map(|n| t.definition_in(n)).filter(|n| t.role(*n) == Role::Class);
    let of = |class: NodeId| {
        let name = t.child(class, Field::Name)?;
        let member = |n: NodeId| {
            name_of(t, n)?;
            let span = t.span(n);
            let atom = |x: &NodeId| matches!(t.role(*x), Role::Name | Role::MemberName | Role::Literal);
            Some(MemberFact {
                exact: t.exact(n),
                bytes: (span.start as u32, span.end as u32),
                lines: (lines.line(span.start) as u32, lines.line(span.end.max(1) - 1) as u32),
                atoms: t.subtree(n).filter(atom).count() as u32,
                function: t.role(t.definition_in(n)) == Role::Function,
            })
        };
        let members: Vec<MemberFact> = body(t, class).into_iter().filter_map(member).collect();
        (!members.is_empty()).then(|| ClassFact { name: t.text(name, text).to_string(), members })
    };
    tops.filter_map(of).collect()
}

/// Names of the classes that other files see without naming this one.
pub fn shared(tree: &Tree, text: &str, lang: &dyn Language) -> Vec<String> {
    if !lang.packages_share_names() && !lang.shares_by_loading() {
        return Vec::new();
    }
    let classes = tree.ids().filter(|c| tree.role(*c) == Role::Class && tree.is_outermost(*c));
    let names = classes.filter_map(|c| tree.child(c, Field::Name));
    names.map(|n| tree.text(n, text).to_string()).collect()
}
