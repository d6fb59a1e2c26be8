//! The statement that took a copy's place: a call of the new function, what takes its results, and how it leaves.

use super::check::Check;
use super::outside::is_module_level;
use super::{Opinion, object};
use crate::change::Code;
use crate::lang::Leaving;
use crate::names::{BindKind, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// The parts of the statement at the site.
pub(super) struct Call {
    pub leaving: Leaving,
    pub returned: bool,
    /// The site yields all that the call yields.
    pub delegates: bool,
    pub awaited: bool,
    /// What takes the results; of each, the result's name where the call says it.
    pub targets: Vec<(Option<String>, NodeId)>,
    pub callee: NodeId,
    pub arguments: Vec<NodeId>,
    /// Types that it says.
    pub types: Vec<NodeId>,
}

impl Check<'_> {
    pub(super) fn call(&self) -> Opinion<Call> {
        let t = &self.edited().tree;
        let mut at = self.site.call;
        let wrong = || object(self.edited(), self.site.call, "the site is no plain call");
        let (targets, arguments) = (Vec::new(), Vec::new());
        let mut call = Call {
            leaving: Leaving::Plain,
            returned: false,
            delegates: false,
            awaited: false,
            targets,
            callee: at,
            arguments,
            types: Vec::new(),
        };
        if t.role(at) == Role::If {
            (call.leaving, at) = self.leaving(at)?;
        }
        loop {
            let declared = |c: &NodeId| t.role(at) == Role::Declare && t.field(*c) == Field::Type;
            let marks = |c: &NodeId| matches!(t.role(*c), Role::Token | Role::AsyncMark) || declared(c);
            let children: Vec<NodeId> = t.children(at).filter(|c| !marks(c)).collect();
            match t.role(at) {
                Role::ExprStmt | Role::Paren | Role::Declare | Role::FrameName if children.len() == 1 => {
                    at = children[0];
                }
                Role::Return if children.len() == 1 => {
                    call.returned = true;
                    at = children[0];
                }
                Role::Yield if children.len() == 1 => {
                    let words: Vec<&str> = t.children(at).filter(|c| marks(c)).map(|c| self.edited().str(c)).collect();
                    if !words.iter().any(|w| ["from", "*"].contains(w)) {
                        return wrong();
                    }
                    call.delegates = true;
                    at = children[0];
                }
                Role::Await if children.len() == 1 => {
                    call.awaited = true;
                    at = children[0];
                }
                Role::Assign => {
                    let (Some(l), Some(r)) = (t.child(at, Field::Left), t.child(at, Field::Right)) else {
                        return wrong();
                    };
                    let named = |c: NodeId| match (t.child(c, Field::Key), t.child(c, Field::Value)) {
                        (Some(k), Some(v)) => (Some(self.edited().str(k).to_string()), v),
                        _ => (None, c),
                    };
                    let plain = t.role(l) == Role::Name;
                    call.targets = if plain { vec![(None, l)] } else { t.children(l).map(named).collect() };
                    at = r;
                }
                Role::Call => {
                    let (Some(f), Some(a)) = (t.child(at, Field::Callee), t.child(at, Field::Arguments)) else {
                        return wrong();
                    };
                    call.callee = f;
                    let types = t.children(at).find(|c| t.role(*c) == Role::Type);
                    call.types = types.map_or(Vec::new(), |list| t.children(list).collect());
                    call.arguments = t.children(a).collect();
                    let named = |n: &NodeId| matches!(t.role(*n), Role::KeywordArg | Role::Spread);
                    if call.arguments.iter().any(named) {
                        return wrong();
                    }
                    return self.unpacked(call);
                }
                _ => return wrong(),
            }
        }
    }

    /// `if (f()) return`, the same with a jump, or `r = f(); if (r is something) return r`; with where the call is found.
    fn leaving(&self, at: NodeId) -> Opinion<(Leaving, NodeId)> {
        let (s, t) = (self.edited(), &self.edited().tree);
        let wrong = || object(s, at, "the site is no plain call");
        let in_block = |b: NodeId| if t.role(b) == Role::Block { Self::statements(s, b) } else { vec![b] };
        let body = t.child(at, Field::Body).map(in_block);
        let condition = t.child(at, Field::Condition);
        let other = t.child(at, Field::Alternative);
        let (Some(condition), Some([leave]), None) = (condition, body.as_deref(), other) else { return wrong() };
        let bracketed = t.role(condition) == Role::Paren;
        let condition = if bracketed { t.children(condition).next().unwrap_or(condition) } else { condition };
        let value = t.children(*leave).next();
        let value = match (t.role(*leave), value) {
            (Role::Break, None) => return Ok((Leaving::Break, condition)),
            (Role::Continue, None) => return Ok((Leaving::Continue, condition)),
            (Role::Return, None) => return Ok((Leaving::Guard, condition)),
            (Role::Return, Some(value)) => value,
            _ => return wrong(),
        };
        // the value is a name that only these statements know
        let kept = self.site.declares.first();
        let binding = s.names.at(value).and_then(|r| r.target);
        let sides: Vec<NodeId> = t.children(condition).collect();
        let [tested, operator @ .., nothing] = sides.as_slice() else { return wrong() };
        let words: Vec<&str> = operator.iter().map(|o| s.str(*o)).collect();
        let tests = t.role(condition) == Role::Compare
            && s.names.at(*tested).and_then(|r| r.target) == binding
            && s.str(*nothing) == s.lang.nothing()
            && words.join(" ") == s.lang.differs();
        // other sites of the function may call it so, too
        let of_sites = |n: NodeId| {
            let mut all = self.pair.sites.iter().flat_map(|x| x.declares.iter().chain([&x.call]));
            all.any(|x| t.contains(*x, n))
        };
        let only_here = || binding.is_some_and(|b| s.names.references_to(b).all(|r| of_sites(r.node)));
        let given = |k: NodeId| {
            let mut inside = s.names.in_range(k, t.end(k)).iter();
            inside.any(|r| r.target == binding && r.usage == crate::names::Use::Write)
        };
        match kept {
            Some(k) if tests && given(*k) && only_here() => Ok((Leaving::Value, *k)),
            _ => wrong(),
        }
    }

    /// The callee is the new function and nothing else.
    pub(super) fn callee(&self, call: &Call) -> Opinion<()> {
        let (s, t) = (self.edited(), &self.edited().tree);
        let wrong = || object(s, self.site.call, "the call does not reach the new function");
        if s.names.members_in_sight {
            return if self.reaches_member(call.callee) { Ok(()) } else { wrong() };
        }
        if self.reaches_static(call.callee) {
            return Ok(());
        }
        if self.function.class.is_some() {
            let (Some(o), Some(m)) = (t.child(call.callee, Field::Object), t.child(call.callee, Field::Member)) else {
                return wrong();
            };
            let receiver = s.names.at(o).and_then(|r| r.target);
            let own = self.receiver(s, self.function_of(s, self.site.call));
            let class = |s: &Source, f: NodeId| s.tree.ancestor(f, &[Role::Class]);
            let same_class = class(s, self.function_of(s, self.site.call)) == class(self.home, self.definition);
            let fits = s.str(m) == self.function.name && receiver.is_some() && receiver == own;
            let there = s.path == self.function.file && same_class || self.is_below_home();
            return if fits && there { Ok(()) } else { wrong() };
        }
        if s.path != self.function.file && s.lang.shares_by_loading() {
            return if self.reaches_loaded(call.callee) { Ok(()) } else { wrong() };
        }
        let Some(b) = s.names.at(call.callee).and_then(|r| r.target) else { return wrong() };
        let binding = s.names.binding(b);
        let seen = is_module_level(&s.names, Some(b)) || self.function.nested && self.definition < self.site.call;
        if binding.writes != 1 || !seen {
            return wrong();
        }
        let reached = if s.path == self.function.file {
            binding.kind == BindKind::Function && t.parent(binding.first) == Some(self.definition)
        } else {
            let home = self.project.index(&self.function.file);
            let member = crate::index::Entity::Member(home.unwrap_or(usize::MAX), self.function.name.clone());
            is_exported(self.home, &self.function.name)
                && binding.kind == BindKind::Import
                && self.project.entity(s, &binding.name) == member
        };
        if reached { Ok(()) } else { wrong() }
    }
}

impl Check<'_> {
    /// A free name, which only the function's file gives to a function: it stands there outside of all else, in the same
    /// name space, and is loaded by what stands before all code of the call's file, or the plan says so.
    fn reaches_loaded(&self, callee: NodeId) -> bool {
        let (s, h, p) = (self.edited(), self.home, self.project);
        let t = &s.tree;
        let free = s.names.at(callee).is_some_and(|r| r.target.is_none()) && s.str(callee) == self.function.name;
        let top = h.tree.parent(self.definition) == Some(Tree::ROOT);
        let Some(home) = p.index(&self.function.file).filter(|_| free && top) else { return false };
        let alone = !p.facts.iter().any(|f| f.has_word(&self.function.name)) && !s.lang.is_builtin(s.str(callee));
        let told = self.change.result.reasons.iter().any(|r| r.code == Code::ImportPath);
        let mut head = t.children(Tree::ROOT).take_while(|n| s.lang.is_plain_top_level(t, *n, &s.text));
        let loads = head.any(|n| {
            s.lang.loaded_by(t, n, &s.text).iter().filter(|i| i.level > 0).any(|i| {
                let files = p.resolved(s, i);
                let through = told && files.iter().any(|f| p.modules().loads(*f, home));
                (i.level == 1 || told) && files.contains(&home) || through
            })
        });
        alone && loads && s.lang.said_package(s) == h.lang.said_package(h)
    }

    /// The class's own word for a function of it that needs no object, from the code of that class.
    fn reaches_static(&self, callee: NodeId) -> bool {
        let s = self.edited();
        let word = s.lang.own_static(&self.function.name);
        let class = |s: &Source, n: NodeId| s.tree.ancestor(n, &[Role::Class]);
        let home = self.home.names.scope_of(self.definition);
        let method = home.and_then(|scope| crate::index::method::method(self.home, self.definition, scope));
        self.function.class.is_some()
            && word != self.function.name
            && s.str(callee) == word
            && s.path == self.function.file
            && class(s, callee).is_some()
            && class(s, callee) == class(self.home, self.definition)
            && method.is_some_and(|m| m.kind == crate::lang::MethodKind::Static)
    }
}

/// Other files get a module's name by its word, or by a member of what the module gives.
fn is_exported(s: &Source, name: &str) -> bool {
    s.names.in_module(name).is_some_and(|b| s.lang.exports_by_name(s, b)) || gives(s, name)
}

/// A module that gives an object to others has a member of that name in it.
pub(super) fn gives(s: &Source, name: &str) -> bool {
    let t = &s.tree;
    let given = |assign: NodeId| {
        let Some((left, right)) = t.child(assign, Field::Left).zip(t.child(assign, Field::Right)) else { return false };
        let member = t.child(left, Field::Member).filter(|m| s.str(*m) == name).and(t.child(left, Field::Object));
        let whole = t.role(right) == Role::Dict && s.lang.is_exports(s, s.str(left));
        member.is_some_and(|o| s.lang.is_exports(s, s.str(o)))
            || whole && t.subtree(right).any(|x| t.is_leaf(x) && s.str(x) == name)
    };
    t.ids().filter(|n| t.role(*n) == Role::Assign).any(given)
}
