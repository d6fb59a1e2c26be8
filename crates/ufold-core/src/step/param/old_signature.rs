//! `param` where parameters have no default values: a method that only its class calls gets one parameter more, and all
//! its calls pass the value; of any other one the old signature stays, and calls the new method with the value.
//!
//! Nothing else may be called in the place of either: no other method of the name takes as many arguments as the new one,
//! in classes above and below neither, and the name is not handed on, where several methods of it could be in doubt.

use std::sync::Arc;

use crate::change::{Code, Edits, Outcome, Reason, Verdict, reason};
use crate::index::class_tree::{self, Class};
use crate::index::{Project, unseen};
use crate::lang::{MemberOf, Signature};
use crate::names::{Names, Source};
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

type Found<T> = Result<T, Reason>;

/// A function that gets a parameter for one of its values.
pub(super) struct Widened<'a> {
    pub project: &'a Project<'a>,
    pub source: &'a Arc<Source>,
    pub function: NodeId,
    pub value: NodeId,
    pub holes: Vec<NodeId>,
    pub name: &'a str,
}

impl Widened<'_> {
    pub fn plan(&self) -> Found<Outcome> {
        let (s, t) = (self.source, &self.source.tree);
        self.hidden()?;
        let class = s.class_around(self.function);
        let class = class.ok_or_else(|| reason(s, self.function, Code::NotAValue, "the function has no class"))?;
        let called = self.called(class);
        let classes = class_tree::with_word(self.project, called, s.lang);
        let home = classes.iter().find(|c| c.source.path == s.path && c.node == class);
        let home = home.ok_or_else(|| reason(s, class, Code::UnknownMember, "its class was not found"))?;
        let mut assumed = Vec::new();
        let around = if self.is_constructor() { vec![home] } else { class_tree::around(&classes, home) };
        self.alone(&around, &mut assumed)?;
        let of_type = self.project.type_text(s, self.value);
        let of_type =
            of_type.ok_or_else(|| reason(s, self.value, Code::UnknownType, "the value's type is not known"))?;
        let text = s.str(self.value).to_string();
        let parameter = Signature { name: self.name, of_type: Some(&of_type), default: Some(&text) };
        let cant = || reason(s, self.function, Code::NoParameter, "no parameter can be added after these");
        let mut edits = Edits::default();
        for h in &self.holes {
            let span = t.span(*h);
            edits.add(s, Edit::new(span.start, span.end, self.name));
        }
        let calls = if around.len() == 1 { self.calls(home) } else { None };
        let mut remarks = Vec::new();
        match calls.filter(|_| assumed.is_empty()) {
            Some(calls) => {
                edits.add(s, s.lang.add_parameter(s, self.function, &parameter).ok_or_else(cant)?);
                for c in calls {
                    let append = crate::step::param::append(s, c, &text);
                    edits.add(s, append.ok_or_else(|| reason(s, c, Code::OddCall, "this call can't pass the value"))?);
                }
            }
            None => {
                let private = s.lang.hides_member(s, self.function);
                assumed.extend(crate::plan::class_reach::stored(self.project, s, class).filter(|_| !private));
                self.delegates()?;
                assumed.extend(unseen::lookers(self.project, s.lang).seen_from(s, t.subtree(self.function)));
                edits.add(s, s.lang.keep_signature(s, self.function, &parameter).ok_or_else(cant)?);
                remarks.push(format!("with its old parameters it stays, for those who call it, and passes {text}"));
            }
        }
        let (files, saves) = edits.finish();
        let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        Ok(Outcome { verdict, reasons: assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) })
    }

    fn is_constructor(&self) -> bool {
        self.source.tree.child(self.function, Field::ReturnType).is_none()
    }

    /// The word by which it is called.
    fn called(&self, class: NodeId) -> &str {
        let name = self.source.tree.child(if self.is_constructor() { class } else { self.function }, Field::Name);
        name.map_or("", |n| self.source.str(n))
    }

    /// The value is an argument of a kind that the parameter can have, and the parameter's name reaches it.
    fn hidden(&self) -> Found<()> {
        let (s, t) = (self.source, &self.source.tree);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        for h in &self.holes {
            if s.lang.asks_more_than_type(s, *h, &definitions) {
                let message = "the compiler looks at this constant itself here, not only at its type";
                return Err(reason(s, *h, Code::NotAValue, message));
            }
            let inner = t.ancestors(*h).take_while(|a| *a > self.function).find(|a| t.role(*a) == Role::Class);
            if let Some(c) = inner.filter(|c| !s.lang.class_type(s, *c, &definitions).1.is_empty()) {
                let message = format!("a class in between may have inherited a `{}`", self.name);
                return Err(reason(s, c, Code::NameHidden, message));
            }
        }
        Ok(())
    }

    fn parameters(s: &Source, function: NodeId) -> usize {
        s.tree.child(function, Field::Parameters).map_or(0, |p| s.tree.children(p).count())
    }

    /// No call can mean another function than before, and none of the name is handed on.
    fn alone(&self, around: &[&Class], assumed: &mut Vec<Reason>) -> Found<()> {
        let (s, most) = (self.source, Self::parameters(self.source, self.function));
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let called = self.called(around[0].node);
        for c in around {
            for f in class_tree::functions(c, |n| c.source.str(n) == called) {
                let itself = c.source.path == s.path && f == self.function;
                let many = crate::index::users::takes_any_number(&c.source, f);
                if !itself && (many || Self::parameters(&c.source, f) == most + 1) {
                    let message = format!("another `{called}` may take as many arguments as the new one");
                    return Err(reason(&c.source, f, Code::Overloaded, message));
                }
            }
            if !self.is_constructor() && c.source.lang.may_inherit(&c.source, c.node, called, &definitions) {
                let message = format!("no `{called}` that the class inherits takes {} arguments", most + 1);
                assumed.push(reason(&c.source, c.node, Code::InheritedName, message));
            }
        }
        for other in unseen::with_name(self.project, called, s.lang) {
            let t = &other.tree;
            let taken = |n: &NodeId| t.is_leaf(*n) && other.str(*n) == called && imported_call(&other, *n, most + 1);
            if let Some(n) = t.ids().find(taken) {
                let message = format!("where several `{called}` are imported this would be a call of the new one");
                return Err(reason(&other, n, Code::Overloaded, message));
            }
            let word = |n: &NodeId| t.is_leaf(*n) && other.str(*n) == called && other.lang.hands_on(&other, *n);
            if let Some(n) = t.ids().filter(word).find(|n| self.may_be_it(&other, *n, around)) {
                let message = "the function is handed on here, where one of several of its name could be meant";
                return Err(reason(&other, n, Code::UsedAsValue, message));
            }
        }
        Ok(())
    }

    fn may_be_it(&self, s: &Source, word: NodeId, around: &[&Class]) -> bool {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let found = match self.is_constructor() {
            true => s.lang.class_named(s, word, &definitions),
            false => s.lang.member_of(s, word, &definitions),
        };
        match found {
            MemberOf::Class(c) | MemberOf::Likely(c) => around.iter().any(|a| class_tree::same_class(a.ty, c)),
            MemberOf::Other => false,
            MemberOf::Unknown => true,
        }
    }

    /// All calls, where only the class's own file has them and each is surely one of this function.
    fn calls(&self, home: &Class) -> Option<Vec<NodeId>> {
        let (s, t) = (self.source, &self.source.tree);
        let name = t.child(self.function, Field::Name).filter(|_| !self.is_constructor())?;
        let text = s.str(name);
        let marked = t.children(self.function).any(|c| t.role(c) == Role::Decorator);
        let file = self.project.index(&s.path)?;
        let named =
            || crate::index::users::named_by_text(s, text).next().is_some() || self.project.named_by_string(file, text);
        if !s.lang.hides_member(s, self.function)
            || marked
            || named()
            || class_tree::functions(home, |n| s.str(n) == text).len() > 1
        {
            return None;
        }
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let mut calls = Vec::new();
        for n in t.ids().filter(|n| t.is_leaf(*n) && s.str(*n) == text && *n != name) {
            if !matches!(t.role(n), Role::Name | Role::MemberName) {
                continue;
            }
            match s.lang.member_of(s, n, &definitions) {
                MemberOf::Class(c) if class_tree::same_class(c, home.ty) => {}
                MemberOf::Class(_) | MemberOf::Other => continue,
                MemberOf::Likely(_) | MemberOf::Unknown => return None,
            }
            let used = t.parent(n).filter(|m| t.role(*m) == Role::Member).unwrap_or(n);
            let call = t.parent(used).filter(|c| t.role(*c) == Role::Call && t.field(used) == Field::Callee);
            let Some(call) = call else {
                // a variable of the name
                let variable = s.names.at(n).is_some_and(|r| r.spaces == [crate::names::Space::Values]);
                if variable || t.role(n) == Role::MemberName { continue } else { return None }
            };
            let list = t.child(call, Field::Arguments)?;
            let fits = t.children(list).count() == Self::parameters(s, self.function);
            if !fits || !self.means_the_same(call) {
                return None;
            }
            calls.push(call);
        }
        (!calls.is_empty()).then_some(calls)
    }

    /// What the value names is in sight at a call too.
    fn means_the_same(&self, call: NodeId) -> bool {
        let (s, t) = (self.source, &self.source.tree);
        let class = |n: NodeId| s.class_around(n);
        let names: Vec<&str> = t.subtree(self.value).filter(|n| t.role(*n) == Role::Name).map(|n| s.str(n)).collect();
        let within = || t.ancestors(call).take_while(|a| Some(*a) != class(call)).filter_map(|a| s.names.scope_of(a));
        let taken = |w: &str| within().filter(|x| *x != Names::MODULE).any(|x| s.names.declared_in(x, w).is_some());
        names.is_empty() || class(call) == class(self.function) && !names.iter().any(|w| taken(w))
    }

    /// A function more between a caller and the code changes nothing.
    fn delegates(&self) -> Found<()> {
        let (s, t) = (self.source, &self.source.tree);
        if let Some(why) = s.lang.keeps_no_signature(s, self.function) {
            return Err(reason(s, self.function, Code::NoParameter, why));
        }
        // a constructor that calls another one, which is a statement by itself, sees no frame
        let chains = |call: NodeId| t.parent(call).is_some_and(|p| t.role(p) == Role::Block);
        let frames = |n: &NodeId| t.role(*n) == Role::Call && s.reads_frame(*n) && !chains(*n);
        match t.subtree(self.function).find(frames) {
            Some(n) => Err(reason(s, n, Code::Reflection, "this sees which function called it")),
            None => Ok(()),
        }
    }
}

/// A call of so many arguments of what a file imports, perhaps from several classes.
fn imported_call(s: &Source, word: NodeId, arguments: usize) -> bool {
    let t = &s.tree;
    let call = t.parent(word).filter(|c| t.role(*c) == Role::Call && t.field(word) == Field::Callee);
    let open = s.names.at(word).is_some_and(|r| r.target.is_none() && !r.is_type()) || s.names.is_imported(word);
    let given = call.and_then(|c| t.child(c, Field::Arguments)).map(|a| t.children(a).count());
    open && given == Some(arguments)
}
