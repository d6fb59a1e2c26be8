//! Parameters that are gone: nothing reads them, every word of the function's name is a call of it, and each call lost the
//! argument for them, which does nothing.

use super::removed::Gone;
use super::reordered::touch;
use super::{Opinion, object};
use crate::names::{BindKind, Names, Use};
use crate::tree::{Field, NodeId, Role, Tree};

impl Gone<'_> {
    /// The list that a parameter or an argument stands in.
    pub(super) fn list_of(&self, n: NodeId) -> Option<NodeId> {
        self.s.tree.parent(n).filter(|p| matches!(self.s.tree.role(*p), Role::Parameters | Role::Arguments))
    }

    pub(super) fn parameter(&self, n: NodeId, list: NodeId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        let Some(f) = t.parent(list).filter(|f| t.role(*f) == Role::Function) else {
            return object(s, n, "this is no function's parameter");
        };
        let marked = t.children(f).any(|c| t.role(c) == Role::Decorator || s.str(c).starts_with('@'));
        if marked || !t.parent(f).is_some_and(|p| t.role(p).is_sequence()) {
            return object(s, f, "what is written over the function may use it");
        }
        let bound = t.subtree(n).filter_map(|x| s.names.at(x)).find(|r| r.usage == Use::Write);
        let Some(b) = bound.and_then(|r| r.target) else { return object(s, n, "it binds no name") };
        let binding = s.names.binding(b);
        let read = s.names.references_to(b).any(|r| r.node != binding.first);
        let plain = binding.kind == BindKind::Parameter && t.child(n, Field::Value).is_none();
        if read || !plain || s.reads_parameters_unnamed(f).is_some() || t.role(n) == Role::Spread {
            return object(s, n, format!("`{}` is used", binding.name));
        }
        if t.child(f, Field::TypeParams).is_some() || s.str(n).starts_with(['*', '@']) || s.str(n).contains("...") {
            return object(s, n, "this is no plain parameter");
        }
        let is_object = s.lang.is_receiver(&binding.name) || self.object_of(f) == Some(b);
        if is_object {
            return object(s, n, "this is the object");
        }
        self.is_private_function(f)?;
        let index = t.children(list).filter(|p| t.role(*p) != Role::Token).position(|p| p == n);
        let object_first = self.object_of(f).is_some() && s.lang.object_word().is_none();
        let index = index.map(|i| i - usize::from(object_first));
        for call in self.calls_of(f)? {
            let given = t.child(call, Field::Arguments).map_or(Vec::new(), |a| t.children(a).collect());
            let given: Vec<NodeId> = given.into_iter().filter(|a| t.role(*a) != Role::Token).collect();
            if given.iter().any(|a| matches!(t.role(*a), Role::Spread | Role::Generator)) {
                return object(s, call, "which arguments this gives can't be told");
            }
            let named = |a: &NodeId| {
                t.role(*a) == Role::KeywordArg && t.children(*a).next().is_some_and(|k| s.str(k) == binding.name)
            };
            let by_place = index.and_then(|i| given.get(i)).filter(|a| t.role(**a) != Role::KeywordArg);
            let own = given.iter().find(|a| named(a)).or(by_place);
            if own.is_some_and(|a| !self.is_removed(*a)) {
                return object(s, call, format!("the argument for `{}` is left", binding.name));
            }
        }
        Ok(())
    }

    /// The object of a method that is called by one.
    fn object_of(&self, f: NodeId) -> Option<crate::names::BindingId> {
        let (s, t) = (self.s, &self.s.tree);
        let of_class = t.parent(f).and_then(|b| t.parent(b)).is_some_and(|c| t.role(c) == Role::Class);
        super::body::receiver_of(s, f).filter(|_| of_class)
    }

    /// The words of its name are its own and those of calls.
    fn calls_of(&self, f: NodeId) -> Opinion<Vec<NodeId>> {
        let (s, t) = (self.s, &self.s.tree);
        let Some(name) = t.child(f, Field::Name) else { return object(s, f, "a function without a name") };
        let class = t.parent(f).and_then(|b| t.parent(b)).filter(|c| t.role(*c) == Role::Class);
        if class.is_some_and(|c| s.names.members_in_sight && t.child(c, Field::Bases).is_some()) {
            return object(s, f, "a call with fewer arguments may be of what its class has inherited");
        }
        let mut out = Vec::new();
        for n in t.ids().filter(|n| t.is_leaf(*n) && *n != name) {
            let text = matches!(t.role(n), Role::Literal | Role::TemplateText);
            let says = if text {
                crate::index::whole_words(s.str(n), s.str(name)).next().is_some()
            } else {
                s.str(n) == s.str(name)
            };
            if !says {
                continue;
            }
            let member = t.role(n) == Role::MemberName;
            let callee = if member { t.parent(n).unwrap_or(n) } else { n };
            let same = match member {
                true => class.is_some() && self.is_by_own_object(callee, class.unwrap_or(Tree::ROOT)),
                false => s.names.at(n).and_then(|r| r.target) == s.names.at(name).and_then(|r| r.target),
            };
            let call = t.parent(callee).filter(|c| t.role(*c) == Role::Call && t.field(callee) == Field::Callee);
            match call.filter(|_| same && !text) {
                Some(call) => out.push(call),
                None => return object(s, n, format!("`{}` is used here otherwise than by a call", s.str(name))),
            }
        }
        Ok(out)
    }

    /// By the object of a method of the class, or by what types say is one.
    fn is_by_own_object(&self, path: NodeId, class: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        if s.names.members_in_sight {
            return true;
        }
        let Some(x) = t.child(path, Field::Object) else { return false };
        let methods = t.ancestors(path).filter(|f| t.role(*f) == Role::Function);
        let method = methods.into_iter().find(|f| t.parent(*f).and_then(|b| t.parent(b)) == Some(class));
        let receiver = method.and_then(|m| super::body::receiver_of(s, m));
        receiver.is_some() && s.names.at(x).and_then(|r| r.target) == receiver
    }

    /// An argument is not made into another type, which may fail.
    fn same_type(&self, n: NodeId, parameter: NodeId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        let of = |x: NodeId| self.project.type_text(s, x);
        let declared = t.child(parameter, Field::Name).and_then(of);
        let plain = t.role(n) == Role::Literal || s.lang.is_plain_value(s, n);
        match !s.lang.types_locals() || plain || declared.is_some() && declared == of(n) {
            true => Ok(()),
            false => object(s, n, "the argument may fail to become what the parameter is"),
        }
    }

    /// The argument is for a parameter that is gone too, and does nothing.
    pub(super) fn argument(&self, n: NodeId, list: NodeId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        let Some(call) = t.parent(list).filter(|c| t.role(*c) == Role::Call) else {
            return object(s, n, "this is no argument of a call");
        };
        let value = if t.role(n) == Role::KeywordArg { t.child(n, Field::Value).unwrap_or(n) } else { n };
        let frame = t.callable_around(call).unwrap_or(Tree::ROOT);
        let does = touch(s, frame, value, &[]);
        if does.changes || does.fails || does.jumps || does.ends || does.shows || !does.given.is_empty() {
            return object(s, n, "this argument may do something");
        }
        // a variable of the file may have no value yet
        let top = t.ancestors(call).find(|a| t.parent(*a) == Some(Tree::ROOT)).unwrap_or(call);
        let late = |r: &&crate::names::Reference| {
            let Some(b) = r.target.filter(|b| s.names.binding(*b).scope == Names::MODULE) else { return false };
            let binding = s.names.binding(b);
            let given = |w: NodeId| {
                let own = t.ancestors(w).find(|a| t.parent(*a) == Some(Tree::ROOT)).unwrap_or(w);
                let straight = matches!(t.role(own), Role::ExprStmt | Role::Declare | Role::Import | Role::ImportFrom)
                    || t.child(own, Field::Name) == Some(w);
                straight && t.end(own) <= top
            };
            let any = s.names.references_to(b).any(|r| r.usage.writes() && given(r.node)) || given(binding.first);
            let named = t.child(top, Field::Name).and_then(|n| s.names.at(n)).and_then(|r| r.target);
            let early = named.is_some_and(|f| s.names.binding(f).hoisted) && t.role(top) == Role::Function;
            let function = binding.hoisted && binding.kind == BindKind::Function;
            !s.names.is_member(b) && !function && (early || !any)
        };
        if let Some(r) = s.names.in_range(value, t.end(value)).iter().find(late) {
            return object(s, r.node, "this may have no value yet");
        }
        // a parameter that goes asks for it
        let functions = self.all.iter().filter_map(|g| {
            let list = self.list_of(*g).filter(|l| t.role(*l) == Role::Parameters)?;
            Some((*g, t.parent(list)?))
        });
        for (p, f) in functions {
            if !self.calls_of(f)?.contains(&call) {
                continue;
            }
            let list = t.child(f, Field::Parameters).unwrap_or(f);
            let object_first = self.object_of(f).is_some() && s.lang.object_word().is_none();
            let at = t.children(list).filter(|x| t.role(*x) != Role::Token).position(|x| x == p);
            let given = t.child(call, Field::Arguments).map_or(Vec::new(), |a| t.children(a).collect());
            let place = given.iter().filter(|a| t.role(**a) != Role::Token).position(|a| *a == n);
            let named = t.role(n) == Role::KeywordArg
                && t.children(n).next().is_some_and(|k| t.subtree(p).any(|x| t.is_leaf(x) && s.str(x) == s.str(k)));
            let by_place = t.role(n) != Role::KeywordArg && place.map(|i| i + usize::from(object_first)) == at;
            if named || by_place {
                return self.same_type(n, p);
            }
        }
        object(s, n, "no parameter that goes is given this")
    }
}
