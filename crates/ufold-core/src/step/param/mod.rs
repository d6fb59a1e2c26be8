//! `param`: a value inside a function becomes its last parameter, and the calls in the project pass the old value.
//!
//! Only values that are the same whenever they are computed: literals and fixed names of the module. A function with
//! users that can't be seen, or that can't pass a value, keeps working by a default value; where even that could change
//! what they do, the plan is refused. Where no parameter has default values: see [`crate::step::param::old_signature`].

mod old_signature;

use std::slice::from_ref;

use serde::{Deserialize, Serialize};

use crate::change::{Claim, Code, Edits, Outcome, Place, Reason, Verdict, reason};
use crate::index::{Entity, Project, globals, unseen};
use crate::lang::Signature;
use crate::names::{BindKind, Binding, BindingId, Names, Source};
use crate::step::{Plan, Request, Step};
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role, Tree};

/// What a person may edit of a value that becomes a parameter.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ParamRequest {
    /// The place as it was typed, for messages.
    pub finding: String,
    /// The value.
    pub place: Place,
    /// The parameter's name.
    pub name: String,
    /// Also the other places in the function with an equal value.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub all_equal: bool,
}

impl Step for ParamRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::Widened { name: self.name.clone() }
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Make {} the parameter {}", self.finding, self.name)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Param(self.clone()), Param { project, request: self }.run().map_err(|r| vec![r]))
    }
}

struct Param<'a> {
    project: &'a Project<'a>,
    request: &'a ParamRequest,
}

type Found<T> = Result<T, Reason>;

/// Calls that can pass the value, and whether others may be there.
#[derive(Default)]
struct Users {
    /// File, and the calls in it.
    calls: Vec<(usize, Vec<NodeId>)>,
    /// Someone keeps calling as before.
    default: bool,
    assumed: Vec<Reason>,
}

impl Param<'_> {
    fn run(&self) -> Found<Outcome> {
        let (place, name) = (&self.request.place, self.request.name.clone());
        let source = self.project.source_at(place).map_err(|mut r| r.remove(0))?;
        let (s, t) = (&*source, &source.tree);
        let span = Span::new(place.start_byte, place.end_byte);
        let nowhere = |message: &str| Reason {
            code: Code::NotAValue,
            message: message.into(),
            file: place.file.clone(),
            line: place.start_line,
        };
        let value = crate::plan::range::expression(t, span).ok_or_else(|| nowhere("no expression stands here"))?;
        let function = t
            .ancestor(value, &[Role::Function])
            .ok_or_else(|| nowhere("the value is not inside a function with a name"))?;
        let body = t.child(function, Field::Body).filter(|b| t.contains(*b, value));
        let body = body.ok_or_else(|| nowhere("the value is not in the body of the function"))?;
        self.fixed(s, value)?;
        let scope = s.names.scope_of(function).expect("a function opens a scope");
        let within = s.names.scope_chain(scope).next().expect("itself");
        let used = t.subtree(function).any(|n| t.role(n) == Role::Name && s.str(n) == name);
        if used || s.names.declared_in(within, &name).is_some() {
            return Err(reason(s, value, Code::NameTaken, format!("`{name}` is already in use in the function")));
        }
        let holes = self.holes(s, body, value);
        if !s.lang.passes_fewer_arguments() {
            let (project, source) = (self.project, &source);
            return crate::step::param::old_signature::Widened { project, source, function, value, holes, name: &name }
                .plan();
        }
        self.general(s, value)?;
        let users = self.users(s, function, value)?;
        let text = s.str(value).to_string();
        let parameter_type = self.project.type_text(s, value).filter(|_| s.lang.needs_types());
        let mut edits = Edits::default();
        for h in &holes {
            let place = t.span(*h);
            let own = match crate::index::target::one_word_pair(t, *h) {
                Some(_) => format!("{}: {name}", s.str(*h)),
                None => name.clone(),
            };
            edits.add(s, Edit::new(place.start, place.end, own));
        }
        let default = Some(text.clone()).filter(|_| users.default || self.has_defaults(s, function));
        let signature = Signature { name: &name, of_type: parameter_type.as_deref(), default: default.as_deref() };
        let add = s.lang.add_parameter(s, function, &signature);
        edits.add(
            s,
            add.ok_or_else(|| reason(s, function, Code::NoParameter, "no parameter can be added after these"))?,
        );
        let mut remarks = Vec::new();
        let by_name = s.lang.passes_by_name(s, function);
        for (file, calls) in &users.calls {
            let other = self.project.source(*file).map_err(|m| nowhere(&m))?;
            for c in calls {
                let argument = if by_name { format!("{name}={text}") } else { text.clone() };
                match append(&other, *c, &argument) {
                    Some(e) => edits.add(&other, e),
                    None => return Err(reason(&other, *c, Code::OddCall, "this call can't pass one argument more")),
                }
            }
        }
        if users.default {
            remarks.push("the parameter has a default value: there may be users that can't be seen".into());
        }
        let (files, saves) = edits.finish();
        let verdict = if users.assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        Ok(Outcome { verdict, reasons: users.assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) })
    }

    /// The value is the same wherever and whenever it is computed.
    fn fixed(&self, s: &Source, value: NodeId) -> Found<()> {
        let t = &s.tree;
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let constant = |n: NodeId| s.lang.is_constant(s, n, &definitions);
        let mut constants = NodeId(0);
        for n in t.subtree(value) {
            if n < constants {
                continue;
            }
            if constant(n) {
                constants = t.end(n);
                continue;
            }
            let ok = match t.role(n) {
                Role::Literal | Role::Token | Role::Tuple | Role::Concat | Role::Paren | Role::TemplateText => true,
                Role::UnaryOp => s.str(n).starts_with(['-', '+', '~']),
                Role::Name => {
                    let b = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b));
                    let class = |b| s.names.is_member(b) && !s.lang.is_of_object(s, b) && s.lang.is_final(s, b);
                    let member = s.names.at(n).and_then(|r| r.target).is_some_and(class);
                    // a default value may be computed when the function is made
                    let early = |b: &Binding| b.scope == Names::MODULE && b.writes == 1 && b.first < value;
                    member || b.is_some_and(|b| early(b) && !b.rebound_inside)
                }
                _ => false,
            };
            if !ok {
                let message = format!("`{}` may be another value when it is computed by the callers", s.str(value));
                return Err(reason(s, value, Code::ChangingValue, message));
            }
        }
        if crate::plan::replaced::replaced_by_a_name(s, value) {
            return Ok(());
        }
        Err(reason(s, value, Code::NotAValue, "no name can take the place of this expression"))
    }

    /// Nothing depends on the value's own type, which is narrower than that of a parameter.
    fn general(&self, s: &Source, value: NodeId) -> Found<()> {
        if !s.lang.needs_types() || !crate::plan::literal_types::is_depended_on(self.project, s, value) {
            return Ok(());
        }
        let text = s.str(value);
        let message = format!("something here may depend on the type of `{text}` itself, which a parameter's is not");
        Err(reason(s, value, Code::UnknownType, message))
    }

    /// The value's place, and those of equal ones when asked for.
    fn holes(&self, s: &Source, body: NodeId, value: NodeId) -> Vec<NodeId> {
        let t = &s.tree;
        if !self.request.all_equal {
            return vec![value];
        }
        let equal =
            |n: &NodeId| t.exact(*n) == t.exact(value) && t.role(*n) == t.role(value) && s.str(*n) == s.str(value);
        let mut all: Vec<NodeId> =
            t.subtree(body).filter(|n| equal(n) && crate::plan::replaced::replaced_by_a_name(s, *n)).collect();
        all.dedup();
        all
    }

    fn has_defaults(&self, s: &Source, function: NodeId) -> bool {
        let t = &s.tree;
        let list = t.child(function, Field::Parameters).map_or(Vec::new(), |p| t.children(p).collect::<Vec<_>>());
        list.iter()
            .any(|p| t.role(*p) == Role::Default || t.child(*p, Field::Value).is_some() || s.str(*p).contains('?'))
    }

    fn users(&self, s: &Source, function: NodeId, value: NodeId) -> Found<Users> {
        let t = &s.tree;
        let home = self.project.index(&s.path).expect("a planned file was scanned");
        let name = t
            .child(function, Field::Name)
            .ok_or_else(|| reason(s, function, Code::NotAValue, "the function has no name"))?;
        let own = s.names.at(name).and_then(|r| r.target);
        let statement = t.parent(function).filter(|p| t.role(*p) == Role::Decorated).unwrap_or(function);
        let member = own.is_none_or(|b| s.names.scope(s.names.binding(b).scope).kind == crate::names::ScopeKind::Class);
        if member {
            return self.of_member(s, function, s.str(name), value);
        }
        let b = own.expect("no member");
        globals::stays(self.project, s, b)?;
        let top = s.names.binding(b).scope == Names::MODULE;
        let marked = t.children(statement).any(|c| t.role(c) == Role::Decorator);
        let mut users = Users { default: marked || top && !self.is_hidden(s, b), ..Users::default() };
        if marked {
            let message = "what marks the function does not look at its parameters";
            users.assumed.push(reason(s, statement, Code::UsedAsValue, message));
        }
        let mut files = vec![(home, b)];
        if top {
            for other in crate::index::users::others(self.project, home, s.str(name)) {
                match other.binding {
                    Some(x) => files.push((other.file, x)),
                    // perhaps used through its module
                    None => users.default |= self.project.imports(other.file, home),
                }
            }
            self.through_others(s, home, s.str(name), function, &mut users)?;
        }
        for (f, binding) in files {
            let other = self.project.source(f).map_err(|m| reason(s, function, Code::Unreadable, m))?;
            let calls = self.calls(&other, binding, f == home, value, s, function, &mut users)?;
            users.calls.push((f, calls));
        }
        Ok(users)
    }

    /// Uses as a member of a module, or by names that were passed on: they keep calling as before, as long as they call.
    fn through_others(&self, s: &Source, home: usize, name: &str, function: NodeId, users: &mut Users) -> Found<()> {
        let most = s.tree.child(function, Field::Parameters).map_or(0, |p| s.tree.children(p).count());
        let named = Entity::Member(home, name.to_string());
        for (_, other) in unseen::with_word(self.project, name, s.lang).filter(|(f, _)| *f != home) {
            let t = &other.tree;
            for n in t.ids().filter(|n| t.is_leaf(*n) && other.str(*n) == name) {
                let (node, means) = match t.role(n) {
                    Role::MemberName => {
                        let object = t.parent(n).and_then(|m| t.child(m, Field::Object));
                        let through = match object.and_then(|o| self.project.meant(&other, o)) {
                            Some(Entity::Module(m)) => {
                                self.project.origin(&Entity::Member(m, name.to_string())) == named || m == home
                            }
                            _ => false,
                        };
                        (t.parent(n).unwrap_or(n), through)
                    }
                    Role::Name => {
                        let b = other.names.at(n).filter(|r| r.usage.reads()).and_then(|r| r.target);
                        let binding = b.map(|b| other.names.binding(b)).filter(|b| b.import.is_some());
                        let own = binding.map(|b| self.project.entity(&other, &b.name));
                        // direct imports are looked at elsewhere
                        let far = own.is_some_and(|e| e != named && self.project.origin(&e) == named);
                        (n, far)
                    }
                    _ => continue,
                };
                if !means {
                    continue;
                }
                users.default = true;
                let call = t.parent(node).filter(|c| t.role(*c) == Role::Call && t.field(node) == Field::Callee);
                match call {
                    Some(c) => drop(can_pass(&other, c, most)?),
                    None => self.used_as_value(&other, node, users)?,
                }
            }
        }
        Ok(())
    }

    /// The function is handed on: a parameter more may change what whoever calls it does.
    fn used_as_value(&self, s: &Source, node: NodeId, users: &mut Users) -> Found<()> {
        if s.lang.passes_extra_arguments() {
            let message = "the function is used as a value: whoever calls it may pass more arguments";
            return Err(reason(s, node, Code::UsedAsValue, message));
        }
        let message = "whoever is given the function here neither passes more arguments nor looks at its parameters";
        users.assumed.push(reason(s, node, Code::UsedAsValue, message));
        users.default = true;
        Ok(())
    }

    fn is_hidden(&self, s: &Source, b: BindingId) -> bool {
        s.lang.is_private(&s.names.binding(b).name) || s.lang.hides(s, b)
    }

    /// Calls by a binding that can pass the value.
    #[allow(clippy::too_many_arguments)]
    fn calls(
        &self,
        s: &Source,
        b: BindingId,
        at_home: bool,
        value: NodeId,
        home: &Source,
        function: NodeId,
        users: &mut Users,
    ) -> Found<Vec<NodeId>> {
        let t = &s.tree;
        let most = home.tree.child(function, Field::Parameters).map_or(0, |p| home.tree.children(p).count());
        let mut calls = Vec::new();
        for r in s.names.references_to(b).filter(|r| r.usage.reads()) {
            let call = t.parent(r.node).filter(|c| t.role(*c) == Role::Call && t.field(r.node) == Field::Callee);
            let exported =
                t.ancestors(r.node).any(|a| t.role(a) == Role::Decorated && t.child(a, Field::Definition).is_none());
            let Some(call) = call else {
                match exported {
                    true => users.default = true,
                    false => self.used_as_value(s, r.node, users)?,
                }
                continue;
            };
            let same = at_home && self.means_the_same(s, value, call) || self.is_literal(home, value);
            match can_pass(s, call, most)? && same {
                true => calls.push(call),
                false => users.default = true,
            }
        }
        Ok(calls)
    }

    fn is_literal(&self, s: &Source, value: NodeId) -> bool {
        !s.tree.subtree(value).any(|n| s.tree.role(n) == Role::Name)
    }

    /// No name of the value is hidden where the call stands.
    fn means_the_same(&self, s: &Source, value: NodeId, call: NodeId) -> bool {
        let t = &s.tree;
        let scopes: Vec<_> =
            t.ancestors(call).filter_map(|a| s.names.scope_of(a)).filter(|x| *x != Names::MODULE).collect();
        let names = t.subtree(value).filter(|n| t.role(*n) == Role::Name);
        names.into_iter().all(|n| !scopes.iter().any(|x| s.names.declared_in(*x, s.str(n)).is_some()))
    }

    /// A method is called by its name on objects that can't be told: it gets a default value, unless it is one that only
    /// its class calls.
    fn of_member(&self, s: &Source, function: NodeId, name: &str, value: NodeId) -> Found<Users> {
        let t = &s.tree;
        let defined: usize = (0..self.project.facts.len())
            .filter(|f| self.project.facts[*f].has_word(name))
            .filter_map(|f| self.project.source(f).ok())
            .map(|o| {
                o.tree
                    .ids()
                    .filter(|n| {
                        o.tree.role(*n) == Role::Function
                            && o.tree.child(*n, Field::Name).is_some_and(|x| o.str(x) == name)
                    })
                    .count()
            })
            .sum();
        if s.lang.is_special_member(name) && !s.lang.is_constructor(name) || defined > 1 {
            return Err(reason(
                s,
                function,
                Code::Overridden,
                format!("`{name}` is defined more than once, or called by the language"),
            ));
        }
        let as_value = t.ids().any(|n| {
            let of = t.parent(n).filter(|m| t.role(*m) == Role::Member && t.role(n) == Role::MemberName);
            s.str(n) == name && of.is_some_and(|m| t.field(m) != Field::Callee)
        });
        if as_value && s.lang.passes_extra_arguments() {
            return Err(reason(s, function, Code::UsedAsValue, "the method is used as a value"));
        }
        if s.names
            .at(t.child(function, Field::Name).unwrap_or(function))
            .and_then(|r| r.target)
            .is_some_and(|b| s.names.binding(b).kind != BindKind::Function)
        {
            return Err(reason(s, function, Code::UsedAsValue, "the method is bound again"));
        }
        let marked = t.parent(function).is_some_and(|p| t.role(p) == Role::Decorated);
        let Some(all) = crate::index::users::method_calls(self.project, s, function).filter(|_| !marked) else {
            return Ok(Users { default: true, ..Users::default() });
        };
        // the object is no argument
        let own = usize::from(s.lang.object_word().is_none());
        let most = t.child(function, Field::Parameters).map_or(0, |p| t.children(p).count().saturating_sub(own));
        let mut users = Users::default();
        let mut calls = Vec::new();
        for (call, _) in all {
            match can_pass(s, call, most)? && self.means_the_same(s, value, call) {
                true => calls.push(call),
                false => users.default = true,
            }
        }
        users.default |= calls.is_empty();
        users.calls.extend(self.project.index(&s.path).map(|f| (f, calls)));
        Ok(users)
    }
}

/// Whether a call gives all of the parameters so far plain values; refused where it may give more.
fn can_pass(s: &Source, call: NodeId, most: usize) -> Found<bool> {
    let t = &s.tree;
    let list = t.child(call, Field::Arguments);
    let given: Vec<NodeId> = list.map_or(Vec::new(), |a| t.children(a).collect());
    let special = !given.iter().all(|g| crate::index::users::is_plain_argument(t, *g));
    if s.lang.passes_extra_arguments() && (special || given.len() > most) {
        return Err(reason(s, call, Code::OddCall, "this call may pass more arguments than there are parameters"));
    }
    Ok(!special && given.len() >= most && t.role(list.unwrap_or(call)) == Role::Arguments)
}

/// The edit that gives a call one argument more.
pub(super) fn append(s: &Source, call: NodeId, argument: &str) -> Option<Edit> {
    let t: &Tree = &s.tree;
    let list = t.child(call, Field::Arguments).filter(|a| t.role(*a) == Role::Arguments)?;
    let span = t.span(list);
    let all: Vec<NodeId> = t.children(list).collect();
    let at = all.last().map_or(span.start + 1, |l| t.span(*l).end);
    let text = if all.is_empty() { argument.to_string() } else { format!(",{}{argument}", s.gap_in(list)) };
    (s.text.as_bytes().get(span.start) == Some(&b'(')).then(|| Edit::new(at, at, text))
}
