//! A declaration became one with the value that the next statement gave: the same code but for these two statements.

use super::file::File;
use super::outside::{ScopeMap, same_meaning};
use super::{Opinion, object};
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(files: &[File]) -> Opinion<()> {
    let [f] = files else { return object(&files[0].old, Tree::ROOT, "a declaration stands in one file") };
    let mut w = Laid { f, scopes: ScopeMap::default(), leaves: Vec::new(), joined: 0 };
    w.pair(Tree::ROOT, Tree::ROOT)?;
    if w.joined != 1 {
        return object(&f.old, Tree::ROOT, "not one declaration got its value");
    }
    for (a, b) in &w.leaves {
        if !same_meaning(&f.old, &f.new, &w.scopes, *a, *b) {
            return object(&f.old, *a, format!("`{}` would mean something else", f.old.str(*a)));
        }
    }
    Ok(())
}

struct Laid<'a> {
    f: &'a File,
    scopes: ScopeMap,
    leaves: Vec<(NodeId, NodeId)>,
    joined: usize,
}

impl Laid<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "code changed");
        }
        if o.names.scope_of(a).is_some() {
            self.scopes.insert(a, b);
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            self.leaves.push((a, b));
            return if t.exact(a) == n.exact(b) { Ok(()) } else { object(o, a, "a word changed") };
        }
        let (left, right): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        let mut i = 0;
        for d in &right {
            let Some(c) = left.get(i) else { return object(s, *d, "code was added") };
            let next = left.get(i + 1).filter(|_| left.len() == right.len() + 1 && t.role(a).is_sequence());
            match next.filter(|_| self.has_value(*d) && !t.subtree(*c).any(|x| t.field(x) == Field::Right)) {
                Some(assignment) if t.role(*c) == Role::Declare => {
                    self.join(*c, *assignment, *d)?;
                    i += 2;
                }
                _ => {
                    self.pair(*c, *d)?;
                    i += 1;
                }
            }
        }
        if i == left.len() { Ok(()) } else { object(o, left[i], "code is missing") }
    }

    fn has_value(&self, statement: NodeId) -> bool {
        let n = &self.f.new.tree;
        n.role(statement) == Role::Declare && n.children(statement).any(|c| n.child(c, Field::Right).is_some())
    }

    fn join(&mut self, declaration: NodeId, assignment: NodeId, new: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        let assigns = |t: &Tree, of: NodeId| t.children(of).filter(|c| t.role(*c) == Role::Assign).collect::<Vec<_>>();
        let parts = (assigns(t, declaration), assigns(t, assignment), assigns(n, new));
        let ([bare], [given], [both]) = (&parts.0[..], &parts.1[..], &parts.2[..]) else {
            return object(o, declaration, "more than one variable is declared");
        };
        let side = |t: &Tree, of: NodeId, f: Field| t.child(of, f);
        let names = (side(t, *bare, Field::Left), side(t, *given, Field::Left), side(n, *both, Field::Left));
        let (Some(x), Some(y), Some(z)) = names else { return object(o, declaration, "no variable is declared") };
        let b = o.names.at(y).filter(|r| t.role(y) == Role::Name && !r.usage.reads()).and_then(|r| r.target);
        let same = t.exact(x) == t.exact(y) && t.exact(y) == n.exact(z) && t.role(assignment) == Role::ExprStmt;
        let Some(b) = b.filter(|_| same && t.child(*bare, Field::Right).is_none()) else {
            return object(o, assignment, "another variable gets the value");
        };
        // what is said of its type stays, and the word that declares it may be the one for what never changes
        let said = |s: &crate::names::Source, statement: NodeId, part: NodeId| {
            let t = &s.tree;
            let own = |of: NodeId| t.children(of).filter(|c| t.field(*c) == Field::Type).map(|c| s.str(c).to_string());
            own(statement).chain(own(part)).collect::<Vec<String>>()
        };
        if said(o, declaration, *bare) != said(s, new, *both) {
            return object(s, new, "the variable's type changed");
        }
        let words = (o.lang.declaring_words(o, declaration), s.lang.declaring_words(s, new));
        let fixed = words.1.is_some_and(|w| s.lang.declares_fixed(w));
        let target = s.names.at(z).and_then(|r| r.target).map(|c| s.names.binding(c));
        if words.0 != words.1 && !(fixed && target.is_some_and(|c| c.writes == 1 && !c.rebound_inside)) {
            return object(s, new, "the variable is declared otherwise");
        }
        let (Some(value), Some(written)) = (t.child(*given, Field::Right), n.child(*both, Field::Right)) else {
            return object(o, assignment, "no value is given");
        };
        let reads = o.names.in_range(value, t.end(value)).iter().any(|r| r.target == Some(b));
        if reads && t.role(value) != Role::Lambda {
            return object(o, value, "the value is made of the variable itself");
        }
        if o.lang.needs_types() && said(o, declaration, *bare).is_empty() {
            return object(o, declaration, "the variable's type would come from this value");
        }
        self.joined += 1;
        self.leaves.push((y, z));
        self.pair(value, written)
    }
}
