//! Copies at the top level of a file: their variables are the file's, for its functions and other files to see.

use super::check::Check;
use super::order::Order;
use super::{Opinion, object};
use crate::change::{Code, Verdict};
use crate::index::{Entity, Project};
use crate::names::{BindKind, BindingId, Names, Source, Use};
use crate::tree::{NodeId, Role, Tree};

impl Check<'_> {
    /// The copy is a run of statements outside all functions.
    pub(super) fn is_at_top(&self) -> bool {
        !self.site.is_expression && self.function_of(self.old(), self.site.first) == Tree::ROOT
    }

    /// A variable of the file that the copy has for itself, or that it hands in.
    pub(super) fn becomes_local(&self, b: BindingId) -> bool {
        let binding = self.old().names.binding(b);
        self.is_at_top() && binding.scope == Names::MODULE && binding.kind == BindKind::Variable
    }

    /// Nobody sees the variables that the copy writes while it runs, nor later those that do not come back.
    pub(super) fn file_variables(&self, taken: &[&str]) -> Opinion<()> {
        let o = self.old();
        if !self.is_at_top() {
            return Ok(());
        }
        let written = o.names.in_range(self.site.first, o.tree.end(self.site.last)).iter();
        for r in written.filter(|r| r.usage != Use::Read) {
            let Some(b) = r.target.filter(|b| o.names.binding(*b).scope == Names::MODULE) else { continue };
            let binding = o.names.binding(b);
            if binding.kind != BindKind::Variable {
                return object(o, r.node, format!("`{}` is made here for the whole file", binding.name));
            }
            let word = binding.name.as_str();
            if o.has_a_meaning(word) {
                return object(o, r.node, format!("`{word}` means something to those who load the file"));
            }
            self.seen_by_functions(b)?;
            let returned = taken.contains(&binding.name.as_str());
            self.seen_by_files(b, returned)?;
            if !returned {
                self.is_told(b)?;
            }
        }
        Ok(())
    }

    /// Functions see it only when they are made after the copy, and none gives it a value.
    fn seen_by_functions(&self, b: BindingId) -> Opinion<()> {
        let o = self.old();
        for r in o.names.references_to(b) {
            let inner = o.names.scope_chain(r.scope).take_while(|s| *s != Names::MODULE);
            let later = inner.into_iter().any(|s| !o.names.scope(s).kind.runs_at_once());
            let inside = r.node >= self.site.first && r.node < o.tree.end(self.site.last);
            let hoisted = o.tree.ancestors(r.node).filter(|a| o.tree.role(*a) == Role::Function).any(|f| {
                let name = o.tree.child(f, crate::tree::Field::Name).and_then(|n| o.names.at(n));
                name.and_then(|n| n.target).is_some_and(|b| o.names.binding(b).hoisted)
            });
            if later && !inside && (r.node < self.site.first || hoisted || r.usage != Use::Read) {
                return object(o, r.node, format!("a function sees `{}` while the copy runs", o.str(r.node)));
            }
        }
        Ok(())
    }

    fn seen_by_files(&self, b: BindingId, returned: bool) -> Opinion<()> {
        let (o, p) = (self.old(), self.project);
        let name = &o.names.binding(b).name;
        let Some(home) = p.index(&o.path).filter(|_| !o.lang.hides(o, b)) else { return Ok(()) };
        let modules = p.modules();
        let system = |f: usize| &p.facts[f].module_system;
        for file in (0..p.facts.len()).filter(|f| *f != home && p.facts[*f].has_word(name)) {
            let shares = system(home).is_none() && system(file).is_none();
            if !shares && !modules.reaches(file, home) || returned && !modules.reaches(home, file) {
                continue;
            }
            let sees = p.source(file).map_or(true, |s| sees(p, &s, home, name, shares));
            if sees {
                return object(o, self.site.first, format!("{} sees `{name}`", p.facts[file].path));
            }
        }
        Ok(())
    }

    /// That a name of the file is gone is among the assumptions, unless it can't be seen or gets a value later anyway.
    fn is_told(&self, b: BindingId) -> Opinion<()> {
        let (o, result) = (self.old(), self.change.result);
        let name = &o.names.binding(b).name;
        let order = Order { source: o, variable: Some(b) };
        if o.lang.hides(o, b) || o.lang.is_private(name) || order.overwritten_after(self.site.last) {
            return Ok(());
        }
        let quoted = format!("`{name}`");
        let names_it =
            |r: &crate::change::Reason| r.code == Code::FileVariable && r.file == o.path && r.message.contains(&quoted);
        match result.verdict == Verdict::Assumed && result.reasons.iter().any(names_it) {
            true => Ok(()),
            false => object(o, self.site.first, format!("the file has no {quoted} any more, and nothing says so")),
        }
    }
}

/// A file has the name of another one's top level, by whatever way.
fn sees(p: &Project, s: &Source, home: usize, name: &str, shares: bool) -> bool {
    let named = Entity::Member(home, name.to_string());
    let free = |n: NodeId| match s.names.at(n).map(|r| r.target) {
        Some(None) => true,
        Some(Some(b)) => s.names.binding(b).scope == Names::MODULE && shares,
        None => false,
    };
    s.tree.ids().filter(|n| s.tree.is_leaf(*n) && s.str(*n) == name).any(|n| match s.tree.role(n) {
        Role::MemberName => true,
        Role::Name => free(n) || p.origin(&p.entity(s, name)) == named && s.names.at(n).is_some(),
        _ => false,
    })
}
