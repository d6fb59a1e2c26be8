//! `inline` of a method where types tell whose a word is: what it computes takes the place of its calls.
//!
//! A call keeps its type: each argument has the type of its parameter, and what stands there has the type of the result,
//! or stands where that is asked for. Names of the method mean the same at the call, are members of the same object, or
//! are reached by the class's name. Refused for methods of which a call may run another one.

use std::sync::Arc;

use super::arguments::in_order;
use super::function::{Inlined, User, is_special, removal, value_of, with_comments};
use super::method_calls::{Method, call_of, method_of};
use super::spread::{Callers, Spread};
use super::values::{hidden_at, in_brackets, of_use, plain_call, plain_parameters};
use super::{Found, Inline, missed_outside};
use crate::change::{Code, Edits, Outcome, Reason, reason};
use crate::index::class_tree::{self, same_class};
use crate::lang::MemberOf;
use crate::names::{Names, Source, Space};
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// How the object of the method is called where the call stands.
enum Object {
    /// As in the method, or there is none.
    Same,
    /// By the name of a variable, or computed once.
    Named(NodeId),
}

impl Inline<'_> {
    pub fn typed_method(&self, s: &Arc<Source>, word: NodeId) -> Found<Outcome> {
        let m = method_of(self.project, s, word)?;
        let (home, t) = (&m.home.source, &m.home.source.tree);
        let refuse = |code: Code, message: &str| Err(vec![reason(home, m.function, code, message)]);
        let Some(parameters) =
            plain_parameters(home, m.function).filter(|_| !crate::index::users::takes_any_number(home, m.function))
        else {
            return refuse(Code::OddCall, "the method's parameters are not plain");
        };
        if is_special(home, m.function) || home.lang.does_more(home, m.function) {
            return refuse(Code::MoreThanAValue, "running it does more than its statements");
        }
        if t.child(m.function, Field::Body).is_none() {
            return refuse(Code::UsedElsewhere, "the method has no body here");
        }
        if m.users.is_empty() {
            return refuse(Code::NeverUsed, "nothing uses the method");
        }
        let chosen = self.chosen(home, m.function, &m.users)?;
        let value = value_of(home, m.function);
        let i = Inlined {
            home,
            function: m.function,
            value,
            parameters,
            receiver: None,
            users: Vec::new(),
            others: Vec::new(),
        };
        let mut edits = Edits::default();
        for (source, e) in self.at_calls(&m, &i, &chosen)? {
            edits.add(&source, e);
        }
        let mut assumed = Vec::new();
        let (function, left) = (m.function, m.users.len() - chosen.len());
        let all_go = self.request.except.is_empty();
        if all_go {
            edits.add(home, removal(home, m.function));
            for (s, import) in &m.imports {
                let lines = crate::plan::lines::whole_lines(s, s.tree.span(*import));
                edits.add(s, Edit::new(lines.start, lines.end, ""));
            }
            assumed.extend(self.may_go(&m)?);
            assumed.extend(m.assumed);
        }
        assumed.extend(self.stack_seen(home, m.function));
        let outcome = self.outcome(edits, left, assumed);
        let gone = |o| missed_outside(with_comments(o, i.home, function), i.home, function, &m.name);
        Ok(if all_go { gone(outcome) } else { outcome })
    }

    /// The edits at the calls, or all that speaks against them.
    fn at_calls(&self, m: &Method, i: &Inlined, chosen: &[usize]) -> Found<Vec<(Arc<Source>, Edit)>> {
        let spread = match i.value {
            Some(_) => None,
            None => Some(Spread::new(i.home, i.function, &i.parameters).map_err(|r| vec![r])?),
        };
        let (mut good, mut against, mut callers) = (Vec::new(), Vec::new(), Callers::default());
        for k in chosen {
            let u = &m.users[*k];
            let edit = match (i.value, &spread) {
                (Some(v), _) => self.value_at(m, i, v, u),
                (None, Some(x)) => self.statements_at(m, i, x, u, &mut callers),
                _ => Err(reason(&u.source, u.node, Code::MoreThanAValue, "it has no statements")),
            };
            match edit {
                Ok(e) => good.push((u.source.clone(), e)),
                Err(r) => against.push(of_use(*k, m.users.len(), r)),
            }
        }
        if against.is_empty() { Ok(good) } else { Err(against) }
    }

    /// Nobody else calls the method by its name.
    fn may_go(&self, m: &Method) -> Found<Vec<Reason>> {
        let (s, t) = (&m.home.source, &m.home.source.tree);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let refuse = |n: NodeId, code: Code, message: &str| Err(vec![reason(s, n, code, message)]);
        let mut out = Vec::new();
        if s.lang.is_special_member(&m.name) {
            return refuse(m.function, Code::Demanded, "the language calls it by its name");
        }
        if let Some((why, keeps)) = s.lang.named_from_outside(s, m.function) {
            if keeps {
                return refuse(m.function, Code::Demanded, why);
            }
            out.push(reason(s, m.function, Code::Demanded, why));
        }
        let binding = t.child(m.function, Field::Name).and_then(|n| s.names.at(n)).and_then(|r| r.target);
        let of_object = binding.is_some_and(|b| s.lang.is_of_object(s, b)) && !s.lang.hides_member(s, m.function);
        match s.lang.member_above(s, m.home.node, &m.name, &definitions) {
            MemberOf::Class(_) if of_object => {
                return refuse(m.function, Code::Overridden, "a class above has it too, and may call it");
            }
            _ if of_object && s.lang.may_inherit(s, m.home.node, &m.name, &definitions) => {
                let message = format!("nothing outside the project that its class extends has or calls `{}`", m.name);
                out.push(reason(s, m.function, Code::Demanded, message));
            }
            _ => {}
        }
        out.extend(self.looked_up_nowhere(s, m.function, &m.name)?);
        Ok(out)
    }

    /// How the call reaches its object; checks that the method would find its class ready.
    fn object(&self, m: &Method, u: &User) -> Result<Object, Reason> {
        let (s, at) = (&m.home.source, &u.source);
        let t = &at.tree;
        let no = |code: Code, message: &str| reason(at, u.node, code, message);
        let name = s.tree.child(m.function, Field::Name).and_then(|n| s.names.at(n)).and_then(|r| r.target);
        let is_static = name.is_some_and(|b| !s.lang.is_of_object(s, b));
        let inside = class_tree::is_ready_at(s, m.home.node, at, u.node);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        if is_static && !inside && s.lang.acts_when_loaded(s, m.home.node, &definitions) {
            return Err(no(Code::EvaluationOrder, "the call is what makes its class ready, which runs code"));
        }
        let Some(object) = t.child(u.node, Field::Object) else {
            return Ok(Object::Same);
        };
        let target = at.names.at(object).and_then(|r| r.target);
        if Some(at.str(object)) == at.lang.object_word() {
            let class = t.ancestor(u.node, &[Role::Class]);
            return match class == Some(m.home.node) && at.path == s.path {
                true => Ok(Object::Same),
                false => Err(no(Code::OddCall, "the object here is of another class")),
            };
        }
        let class = at.lang.class_named(at, leaf_of(at, object), &definitions);
        let names_class = target.is_none_or(|b| {
            let b = at.names.binding(b);
            b.space == Space::Types || b.import.is_some()
        });
        let whole = at.lang.needs_class(at.str(object)) || t.role(object) == Role::Name && names_class && !is_static;
        if !is_static && !same_class(self.type_of(at, object), m.home.ty) {
            return Err(no(
                Code::TypedDeclaration,
                "the object here may be of a class that has other members of these names",
            ));
        }
        match is_static {
            true if names_class && class != MemberOf::Other => Ok(Object::Same),
            false if !whole && !at.str(object).ends_with(at.lang.object_word().unwrap_or("\n")) => {
                Ok(Object::Named(object))
            }
            _ => Err(no(Code::OddCall, "which object the call is for can't be told from its words")),
        }
    }

    /// The edit that puts the method's expression in the place of a call.
    fn value_at(&self, m: &Method, i: &Inlined, value: NodeId, u: &User) -> Result<Edit, Reason> {
        let (s, t, at) = (i.home, &i.home.tree, &u.source);
        let no = |code: Code, message: &str| reason(at, u.node, code, message);
        let (call, given) = plain_call(at, u.node, i.parameters.len())?;
        let own = |n: NodeId| call_of(at, n).is_some() && at.tree.is_leaf(n) && at.str(n) == m.name;
        if given.iter().any(|g| at.tree.subtree(*g).any(own)) {
            return Err(no(Code::OddCall, "a call of the method stands inside this one"));
        }
        in_order(s, &i.parameters, value, at, &given).map_err(|why| no(Code::EvaluationOrder, why))?;
        self.stays_code(i, value, u)?;
        let object = self.object(m, u)?;
        self.keeps_types(i, value, u, call, &given)?;
        self.keeps_exceptions(i, u, call)?;
        let mut words = Vec::new();
        for n in t.subtree(value).filter(|n| t.role(*n) == Role::Name) {
            if let Some(text) = self.word_at(m, value, n, u, call, &object)? {
                words.push((n, text));
            }
        }
        if let Object::Named(o) = object {
            let local = at
                .names
                .at(o)
                .and_then(|r| r.target)
                .is_some_and(|b| at.names.binding(b).scope != Names::MODULE && !at.names.is_member(b));
            if !local && words.len() != 1 {
                return Err(no(Code::EvaluatedAgain, "the object of the call would be computed more than once"));
            }
            let plain = given.iter().all(|g| matches!(at.tree.role(*g), Role::Name | Role::Literal));
            let first = words.iter().map(|(n, _)| *n).min().and_then(|n| crate::plan::evaluate::moment_of(s, value, n));
            if !plain || first.is_none_or(|w| w.conditional || w.in_closure || w.after_effects || w.after_throws) {
                let message = "that the object is there would not be asked first";
                return Err(no(Code::EvaluationOrder, message));
            }
        }
        let span = at.tree.span(call);
        let text = i.text_with(value, at, &given, &words);
        Ok(Edit::new(span.start, span.end, in_brackets(s, value, at, call, text)))
    }

    /// The edit that puts the method's statements in the place of a call's.
    fn statements_at(&self, m: &Method, i: &Inlined, x: &Spread, u: &User, c: &mut Callers) -> Result<Edit, Reason> {
        let (s, t) = (i.home, &i.home.tree);
        let no = |code: Code, message: &str| reason(&u.source, u.node, code, message);
        if u.source.path != s.path {
            return Err(no(Code::UsedElsewhere, "several statements stay in their file"));
        }
        if !matches!(self.object(m, u)?, Object::Same) {
            return Err(no(Code::OddCall, "the statements are about another object here"));
        }
        let (call, _) = plain_call(s, u.node, i.parameters.len())?;
        let body = t.child(i.function, Field::Body).unwrap_or(i.function);
        self.stays_code(i, body, u)?;
        self.keeps_exceptions(i, u, call)?;
        for n in t.subtree(body).filter(|n| t.role(*n) == Role::Name) {
            if self.word_at(m, i.function, n, u, call, &Object::Same)?.is_some() {
                return Err(no(Code::NameHidden, &format!("`{}` is reached otherwise here", s.str(n))));
            }
        }
        let dropped = t.parent(call).is_some_and(|p| t.role(p) == Role::ExprStmt);
        let role = x.value.map(|v| t.role(v));
        if dropped && !matches!(role, None | Some(Role::Name | Role::Literal | Role::Call | Role::Fresh)) {
            return Err(no(Code::MoreThanAValue, "what it gives would be no statement here"));
        }
        if let Some(v) = x.value.filter(|_| t.parent(call).is_some_and(|p| t.role(p) != Role::ExprStmt)) {
            self.keeps_result(i, v, u, call)?;
        }
        let type_of = |n: NodeId| self.type_of(s, n);
        x.at(u.node, c, Some(&type_of))
    }

    /// Nothing in the code belongs to its own function, or is declared where a local of the name is in sight.
    fn stays_code(&self, i: &Inlined, code: NodeId, u: &User) -> Result<(), Reason> {
        let (s, t, at) = (i.home, &i.home.tree, &u.source);
        let generic = |n: NodeId| {
            let b = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b));
            b.is_some_and(|b| b.space == Space::Types && s.names.scope(b.scope).node == i.function)
        };
        let frame = |n: NodeId| s.reads_frame(n);
        let sticks = |n: &NodeId| match t.role(*n) {
            Role::Name => generic(*n) || s.lang.needs_class(s.str(*n)),
            Role::Call => frame(*n),
            role => matches!(role, Role::Await | Role::Yield | Role::FrameName | Role::Function | Role::Class),
        };
        if let Some(n) = t.subtree(code).find(sticks) {
            return Err(reason(s, n, Code::Reflection, "this belongs to its function"));
        }
        let chain: Vec<NodeId> = at.tree.ancestors(u.node).take_while(|a| at.tree.role(*a) != Role::Class).collect();
        let scopes: Vec<_> = chain.into_iter().filter_map(|a| at.names.scope_of(a)).collect();
        let declared = t
            .subtree(code)
            .filter(|n| t.role(*n) == Role::Name)
            .filter(|n| s.names.at(*n).and_then(|r| r.target).is_some_and(|b| s.names.binding(b).first == *n));
        for n in declared {
            if scopes.iter().any(|x| at.names.declared_as(*x, Space::Values, s.str(n)).is_some()) {
                let message = format!("`{}` would be declared where there is one already", s.str(n));
                return Err(reason(at, u.node, Code::NameTaken, message));
            }
        }
        Ok(())
    }

    /// How a name of the method must be written at the call; none where as it is, or as an argument.
    fn word_at(
        &self,
        m: &Method,
        code: NodeId,
        n: NodeId,
        u: &User,
        call: NodeId,
        object: &Object,
    ) -> Result<Option<String>, Reason> {
        let (s, at) = (&m.home.source, &u.source);
        let (t, word) = (&s.tree, s.str(n));
        let Some(r) = s.names.at(n) else { return Ok(None) };
        let no = || reason(at, u.node, Code::NameHidden, format!("`{word}` of the method means something else here"));
        let hidden = || reason(at, u.node, Code::NameHidden, format!("`{word}` of the method can't be seen from here"));
        let binding = r.target.map(|b| s.names.binding(b));
        let this = Some(word) == s.lang.object_word();
        if !this && r.target.is_some_and(|b| t.contains(m.function, s.names.scope(s.names.binding(b).scope).node)) {
            return Ok(None);
        }
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let here = at.tree.ancestors(u.node).filter(|a| at.tree.role(*a) == Role::Class);
        let new_classes: Vec<NodeId> = here.filter(|c| at.path != s.path || !t.contains(*c, m.function)).collect();
        let inherits = new_classes.iter().any(|c| !at.lang.class_type(at, *c, &definitions).1.is_empty());
        match object {
            Object::Named(o) if this => return Ok(Some(in_brackets(at, *o, s, n, at.str(*o).to_string()))),
            Object::Named(o) if r.target.is_some_and(|b| s.names.is_member(b) && s.lang.is_of_object(s, b)) => {
                let owner = s.names.scope(s.names.binding(r.target.expect("just seen")).scope).node;
                return match (self.sees(s, n, at, u.node), owner == m.home.node) {
                    (false, _) => Err(hidden()),
                    (true, true) => Ok(Some(format!("{}.{word}", as_object(at, *o)))),
                    (true, false) => Err(no()),
                };
            }
            _ if this => return if new_classes.is_empty() { Ok(None) } else { Err(no()) },
            _ => {}
        }
        // what a class makes its fields with must stand below them
        let made = at.tree.ancestor(call, &[Role::Function, Role::Class]).filter(|c| at.tree.role(*c) == Role::Class);
        let later = |b: &crate::names::Binding| b.space == Space::Values && b.first > call;
        if made.is_some() && at.path == s.path && binding.is_some_and(later) {
            return Err(no());
        }
        if at.path == s.path && !hidden_at(s, n, code, call) && !inherits {
            return Ok(None);
        }
        // a static member, by its class
        if let Some(b) = r.target.filter(|b| s.names.is_member(*b) && !s.lang.is_of_object(s, *b)) {
            let owner = s.names.scope(s.names.binding(b).scope).node;
            let class = s.tree.child(owner, Field::Name).map(|n| s.str(n).to_string());
            let named = class.filter(|c| self.project.entity(s, c) == self.project.entity(at, c) && owner == top(t, n));
            return match named.filter(|c| self.sees(s, n, at, u.node) && free(at, u.node, c, inherits)) {
                Some(class) if binding.is_some_and(|b| b.space != Space::Types) => Ok(Some(format!("{class}.{word}"))),
                _ if !self.sees(s, n, at, u.node) => Err(hidden()),
                _ => Err(no()),
            };
        }
        let same = r.may_be_type()
            && binding.is_none_or(|b| b.scope == Names::MODULE)
            && self.project.entity(s, word) == self.project.entity(at, word)
            && at.lang.class_above_place(at, u.node, word, &definitions) == MemberOf::Other
            && free(at, u.node, word, inherits);
        if same { Ok(None) } else { Err(no()) }
    }

    /// A member that a name stands for can be named at the place: in the same outermost class, or not hidden.
    fn sees(&self, s: &Source, n: NodeId, at: &Source, place: NodeId) -> bool {
        let t = &s.tree;
        if s.path == at.path && top(t, n) == top(&at.tree, place) {
            return true;
        }
        let first = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b).first);
        let package = |p: &str| p.rsplit_once('/').map_or("", |(f, _)| f).to_string();
        let near = package(&s.path) == package(&at.path);
        first.is_some_and(|f| {
            let mut around = t.ancestors(f).filter(|a| matches!(t.role(*a), Role::Function | Role::ClassField));
            let open = around.next().is_some_and(|d| !s.lang.hides_from_others(s, d) && (near || s.lang.is_open(s, d)));
            let mut classes = t.ancestors(f).filter(|a| t.role(*a) == Role::Class);
            open && (near || classes.all(|c| s.lang.is_open(s, c)))
        })
    }

    fn type_of(&self, s: &Source, n: NodeId) -> crate::types::Ty {
        s.lang.type_of(s, n, &|s: &Source, name: &str| self.project.definition(s, name))
    }

    /// Arguments have the types of their parameters, and what stands for the call has its type.
    fn keeps_types(&self, i: &Inlined, value: NodeId, u: &User, call: NodeId, given: &[NodeId]) -> Result<(), Reason> {
        let (s, at) = (i.home, &u.source);
        let no = |message: &str| Err(reason(at, u.node, Code::TypedDeclaration, message));
        for (p, g) in i.parameters.iter().zip(given) {
            let of = self.type_of(s, s.names.binding(*p).first);
            if !of.is_known() || of != self.type_of(at, *g) {
                return no(&format!("`{}` has perhaps not the type of its parameter", at.str(*g)));
            }
        }
        // what the compiler knows it looks at
        let constant = |g: &NodeId| at.lang.may_be_constant(at, *g);
        let all = s.lang.may_be_constant(s, value) || {
            let t = &s.tree;
            let leaves = t.subtree(value).filter(|n| t.role(*n) == Role::Name);
            let names: Vec<NodeId> = leaves.collect();
            let own = |n: &NodeId| s.names.at(*n).and_then(|r| r.target).is_some_and(|b| i.parameters.contains(&b));
            let acts = t.subtree(value).any(|n| matches!(t.role(n), Role::Call | Role::Index | Role::Fresh));
            !acts && names.iter().all(own) && given.iter().all(constant)
        };
        if all && crate::index::constants::is_looked_at(at, call) {
            return no("the compiler looks at a constant here");
        }
        self.keeps_result(i, value, u, call)
    }

    fn keeps_result(&self, i: &Inlined, value: NodeId, u: &User, call: NodeId) -> Result<(), Reason> {
        let (s, at, t) = (i.home, &u.source, &u.source.tree);
        let no = |message: &str| Err(reason(at, u.node, Code::TypedDeclaration, message));
        let result = s.tree.child(i.function, Field::ReturnType).map_or("", |r| s.str(r));
        let parent = t.parent(call).unwrap_or(Tree::ROOT);
        if t.role(parent) == Role::ExprStmt {
            let runs = matches!(s.tree.role(value), Role::Call | Role::Fresh);
            return if runs { Ok(()) } else { no("what it gives would be no statement here") };
        }
        let (of, was) = (self.type_of(s, value), self.type_of(at, call));
        let written = s.lang.spell(of, s, &|s: &Source, name: &str| self.project.definition(s, name));
        if of.is_known() && (of == was || written.as_deref() == Some(result)) {
            return Ok(());
        }
        // the place asks for the type of the result
        let asks = match t.role(parent) {
            Role::Assign if t.field(call) == Field::Right => {
                let left = t.child(parent, Field::Left);
                let declared = t.parent(parent).and_then(|d| t.child(d, Field::Type));
                let inferred = declared.is_some_and(|d| at.str(d) == "var");
                !inferred && was.is_known() && left.is_some_and(|l| self.type_of(at, l) == was)
            }
            Role::Return => {
                let f = t.callable_around(parent).filter(|f| t.role(*f) == Role::Function);
                let of = f.and_then(|f| t.child(f, Field::ReturnType));
                was.is_known() && at.path == s.path && of.is_some_and(|r| at.str(r) == result)
            }
            _ => false,
        };
        if asks { Ok(()) } else { no("what it gives may have another type than the call") }
    }

    /// Around the call the compiler finds the exceptions that the method says it throws.
    fn keeps_exceptions(&self, i: &Inlined, u: &User, call: NodeId) -> Result<(), Reason> {
        let (s, t) = (i.home, &u.source.tree);
        let says: Vec<&str> = s.lang.says_it_throws(s, i.function).into_iter().map(|n| s.str(n)).collect();
        let frame = t.callable_around(call);
        let tried = t.ancestors(call).take_while(|a| Some(*a) != frame).any(|a| t.role(a) == Role::Try);
        if says.is_empty() || !tried {
            return Ok(());
        }
        let body = s.tree.child(i.function, Field::Body).unwrap_or(i.function);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let thrown = s.lang.declared_exceptions(s, body, s.tree.end(body), &definitions);
        match thrown {
            Ok(list) if says.iter().all(|x| list.iter().any(|l| l == x)) => Ok(()),
            _ => Err(reason(
                &u.source,
                u.node,
                Code::TypedDeclaration,
                "a handler here may wait for what would not be thrown",
            )),
        }
    }
}

/// An object's text before the dot of a member.
fn as_object(s: &Source, object: NodeId) -> String {
    use Role::*;
    let plain = matches!(s.tree.role(object), Name | Call | Member | Index | Paren);
    if plain && !s.lang.is_construction(s.str(object)) { s.str(object).into() } else { format!("({})", s.str(object)) }
}

/// The last word of a path.
fn leaf_of(s: &Source, object: NodeId) -> NodeId {
    s.tree.subtree(object).filter(|n| s.tree.is_leaf(*n)).last().unwrap_or(object)
}

/// The outermost class around a place.
fn top(t: &Tree, n: NodeId) -> NodeId {
    crate::plan::class_reach::top_class(t, n).unwrap_or(Tree::ROOT)
}

/// Nothing nearer has the name, and no class in between could have inherited it.
fn free(at: &Source, place: NodeId, word: &str, inherits: bool) -> bool {
    let scopes = at.tree.ancestors(place).filter_map(|a| at.names.scope_of(a)).filter(|x| *x != Names::MODULE);
    let taken = scopes.into_iter().any(|x| at.names.declared_in(x, word).is_some());
    !taken && !inherits
}
