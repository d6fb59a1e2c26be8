//! `inline` of a constant that is a field, where types tell whose a word is: its value takes the place of every use.
//!
//! Only what a compiler knows the value of goes: final, and made of literals, operators and other such fields. Nobody can
//! see it before it has its value, so it may be read at any time. A field that is read through an object stays: that the
//! object is there is asked for by the read.

use std::sync::Arc;

use super::function::{removal, with_comments};
use super::values::{fits, hidden_at, in_brackets, of_use};
use super::{Found, Inline, missed_outside};
use crate::change::{Code, Edits, Outcome, Reason, reason};
use crate::index::typed_members::{self, Typed};
use crate::index::{Project, Uses, class_tree};
use crate::lang::MemberOf;
use crate::names::{BindingId, Source, Space};
use crate::plan::lines::whole_lines;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// Constants that are made of others.
const MOST_DEEP: usize = 8;

/// The field that a word declares or reads, with its declaration and value.
struct Constant {
    home: Arc<Source>,
    class: NodeId,
    name: String,
    statement: NodeId,
    value: NodeId,
    first: NodeId,
}

/// A use: the word with the path before it.
type User = (Arc<Source>, NodeId);

impl Inline<'_> {
    pub fn constant(&self, s: &Arc<Source>, word: NodeId) -> Found<Outcome> {
        let name = s.str(word).to_string();
        let found = typed_members::find(self.project, s, word, &name)?;
        let c = self.declared(&found, &name)?;
        let (h, first) = (&c.home, c.first);
        let (users, imports) = users(&c, &found)?;
        if users.is_empty() {
            return Err(vec![reason(h, first, Code::NeverUsed, "nothing uses the constant")]);
        }
        let chosen = self.chosen(h, first, &users)?;
        let (mut edits, mut against) = (Edits::default(), Vec::new());
        for k in &chosen {
            match self.constant_at(&c, &users[*k]) {
                Ok(e) => edits.add(&users[*k].0, e),
                Err(why) => against.push(of_use(*k, users.len(), why)),
            }
        }
        if !against.is_empty() {
            return Err(against);
        }
        let left = users.len() - chosen.len();
        let all_go = self.request.except.is_empty();
        if !all_go {
            return Ok(self.outcome(edits, left, Vec::new()));
        }
        edits.add(h, removal(h, c.statement));
        for (at, import) in &imports {
            let lines = whole_lines(at, at.tree.span(*import));
            edits.add(at, Edit::new(lines.start, lines.end, ""));
        }
        let mut assumed = found.references.possible;
        assumed.extend(self.looked_up_nowhere(h, c.statement, &c.name)?);
        Ok(missed_outside(with_comments(self.outcome(edits, left, assumed), h, c.statement), h, c.statement, &c.name))
    }

    /// Its declaration, where that gives it a value that is always the same.
    fn declared(&self, found: &Typed, name: &str) -> Found<Constant> {
        let (h, class) = (&found.home.source, found.home.node);
        let scope = h.names.scope_of(class);
        let b = scope.and_then(|x| h.names.declared_as(x, Space::Values, name));
        let Some(b) = b else {
            return Err(vec![reason(h, class, Code::NoSingleValue, "its class does not declare it")]);
        };
        let first = h.names.binding(b).first;
        let refuse = |code: Code, message: &str| Err(vec![reason(h, first, code, message)]);
        let definition = declared_value(h, b);
        let Some((statement, value)) = definition.filter(|(_, v)| is_always_same(h, *v, 0)) else {
            return refuse(
                Code::NoSingleValue,
                "it is no final field with a value that is known before the program runs",
            );
        };
        if self.changes_type(h, first, value, &[]) {
            return refuse(Code::TypedDeclaration, "the declaration gives the value a type that it would lose");
        }
        Ok(Constant { home: h.clone(), class, name: name.to_string(), statement, value, first })
    }

    /// The edit that puts the value in the place of a use.
    fn constant_at(&self, c: &Constant, (at, used): &User) -> Result<Edit, Reason> {
        let (h, t) = (&c.home, &at.tree);
        let no = |code: Code, message: &str| reason(at, *used, code, message);
        if let Some(object) = t.child(*used, Field::Object).filter(|_| t.role(*used) == Role::Member) {
            let definitions = |s: &Source, name: &str| self.project.definition(s, name);
            let leaf = std::iter::successors(Some(object), |o| t.child(*o, Field::Member)).last().unwrap_or(object);
            let target = at.names.at(object).and_then(|r| r.target).map(|b| at.names.binding(b));
            let value = target.is_some_and(|b| b.space != Space::Types && b.import.is_none());
            let class = !value && matches!(at.lang.class_named(at, leaf, &definitions), MemberOf::Class(_));
            if !class && Some(at.str(object)) != at.lang.object_word() {
                return Err(no(Code::EvaluationOrder, "that the object is there would not be asked first"));
            }
        }
        let named = h.tree.subtree(c.value).filter(|n| h.tree.role(*n) == Role::Name);
        let near = at.path == h.path && t.ancestor(*used, &[Role::Class]) == Some(c.class);
        for n in named {
            if !near || hidden_at(h, n, c.value, *used) {
                return Err(no(Code::NameHidden, &format!("`{}` is reached otherwise here", h.str(n))));
            }
        }
        if let Some(why) = (at.path == h.path).then(|| fits(h, c.value, *used)).flatten() {
            return Err(why);
        }
        let span = t.span(*used);
        let text = in_brackets(h, c.value, at, *used, h.str(c.value).to_string());
        Ok(Edit::new(span.start, span.end, text))
    }
}

/// The statement and the value of a final field that is declared by itself.
fn declared_value(s: &Source, b: BindingId) -> Option<(NodeId, NodeId)> {
    let t = &s.tree;
    let binding = s.names.binding(b);
    let assign = t.parent(binding.first).filter(|a| t.role(*a) == Role::Assign)?;
    let statement = t.parent(assign).filter(|p| t.role(*p) == Role::ClassField)?;
    let alone = t.children(statement).filter(|c| t.role(*c) == Role::Assign).count() == 1;
    let others = t.children(statement).any(|c| matches!(t.role(c), Role::Name) && t.field(c) != Field::Type);
    let fixed = binding.writes == 1 && s.names.is_member(b) && s.lang.is_final(s, b);
    (alone && !others && fixed).then_some((statement, t.child(assign, Field::Right)?))
}

/// A compiler knows what it gives.
fn is_always_same(s: &Source, value: NodeId, depth: usize) -> bool {
    let t = &s.tree;
    let divides = |n: NodeId| {
        let by = t.child(n, Field::Right).filter(|r| t.role(*r) == Role::Literal);
        let sign = t.child(n, Field::Operator).map_or("", |o| s.str(o));
        ["/", "%"].contains(&sign) && !by.is_some_and(|b| s.str(b).contains(|c: char| ('1'..='9').contains(&c)))
    };
    depth < MOST_DEEP
        && t.subtree(value).all(|n| match t.role(n) {
            Role::Literal | Role::Token | Role::Paren | Role::UnaryOp => true,
            Role::Compare | Role::BoolOp | Role::NotOp => true,
            Role::BinaryOp => !divides(n),
            Role::Name => {
                let b = s.names.at(n).and_then(|r| r.target);
                b.and_then(|b| declared_value(s, b)).is_some_and(|(_, v)| is_always_same(s, v, depth + 1))
            }
            _ => false,
        })
}

/// Where it is used, in all files, and the imports of it alone.
fn users(c: &Constant, found: &Typed) -> Found<(Vec<User>, Vec<User>)> {
    let (mut out, mut imports) = (Vec::new(), Vec::new());
    let (h, named) = (&c.home, |n: NodeId| c.home.str(n) == c.name);
    let shares_name = class_tree::functions(&found.home, named).into_iter().next();
    for u in &found.references.sure {
        let t = &u.source.tree;
        for n in u.nodes.iter().filter(|n| u.source.path != c.home.path || **n != c.first) {
            if let Some(i) = t.ancestor(*n, &[Role::Import, Role::ImportFrom]) {
                if let Some(f) = shares_name {
                    return Err(vec![reason(
                        h,
                        f,
                        Code::OddCall,
                        "a method of the name is imported with the constant",
                    )]);
                }
                imports.push((u.source.clone(), i));
                continue;
            }
            let path = t.parent(*n).filter(|m| t.role(*m) == Role::Member && t.field(*n) == Field::Member);
            let used = path.unwrap_or(*n);
            if t.parent(used).is_some_and(|p| t.field(used) == Field::Left && t.role(p).assigns()) {
                return Err(vec![reason(&u.source, *n, Code::NoSingleValue, "it is given a value here")]);
            }
            out.push((u.source.clone(), used));
        }
    }
    Ok((out, imports))
}

/// How many uses there are that could be inlined.
pub(super) fn uses(project: &Project, s: &Arc<Source>, word: NodeId) -> usize {
    let name = s.str(word).to_string();
    let found = typed_members::find(project, s, word, &name);
    let imported = |u: &Uses, n: &NodeId| u.source.tree.ancestor(*n, &[Role::Import, Role::ImportFrom]).is_some();
    let of = |u: &Uses| u.nodes.iter().filter(|n| !imported(u, n)).count();
    // its declaration is one of them
    found.map_or(0, |f| f.references.sure.iter().map(of).sum::<usize>()).saturating_sub(1)
}

/// A word that is, or may be, that of a field.
pub(super) fn is_field(s: &Source, word: NodeId) -> bool {
    let t = &s.tree;
    let parent = t.parent(word).unwrap_or(Tree::ROOT);
    let declares = t.role(parent) == Role::Function && t.field(word) == Field::Name;
    !declares && super::method_calls::call_of(s, word).is_none()
}
