//! `inline` of a function: what it computes takes the place of its calls, in whatever file of the project.
//!
//! Arguments take their parameters' places when each is fixed, or used once, first and in order. Names of the
//! function's own module come along by its import. A function of several statements: see [`crate::step::inline::spread`]; only in its
//! own file. Refused for functions that may be used in ways that no file tells.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::arguments::in_order;
use super::converted::converted;
use super::spread::{Callers, Spread};
use super::values::{hidden_at, in_brackets, of_use, plain_call, plain_parameters};
use super::{Found, Inline};
use crate::change::{Code, Edits, Outcome, Reason, reason};
use crate::index::target::one_word_pair;
use crate::index::users::{Other, import_item, is_listed, named_by_text, others};
use crate::index::{Entity, Project, globals, unseen};
use crate::names::{BindingId, Names, Source};
use crate::plan::emptied::with_emptied;
use crate::plan::imports::without_name;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// A use of the function's name, in its file or another.
pub struct User {
    pub source: Arc<Source>,
    pub node: NodeId,
}

/// A function that goes, or is put in the place of some calls.
pub(super) struct Inlined<'a> {
    pub home: &'a Arc<Source>,
    pub function: NodeId,
    /// What it returns, when that is all that it does.
    pub value: Option<NodeId>,
    pub parameters: Vec<BindingId>,
    /// Of a method, what it calls its object.
    pub receiver: Option<BindingId>,
    pub users: Vec<User>,
    pub others: Vec<Other>,
}

impl Inlined<'_> {
    /// What of the function's types may be missed.
    fn converted(&self, chosen: &[usize]) -> Vec<Reason> {
        let calls = chosen.iter().map(|k| (&*self.users[*k].source, self.users[*k].node));
        converted(self.home, self.function, &self.parameters, calls)
    }
}

impl Inline<'_> {
    pub fn function(&self, s: &Arc<Source>, b: BindingId, function: NodeId) -> Found<Outcome> {
        let i = self.inlined(s, b, function)?;
        let chosen = self.chosen(s, function, &i.users)?;
        let all_go = self.request.except.is_empty();
        let (mut edits, mut assumed) = (Edits::default(), Vec::new());
        let mut wanted = FxHashMap::default();
        for (u, e) in self.at_uses(&i, &chosen, &mut wanted)? {
            edits.add(&i.users[u].source, e);
        }
        for o in &i.others {
            let left = i.users.iter().enumerate().any(|(k, u)| u.source.path == o.source.path && !chosen.contains(&k));
            let wanted = wanted.remove(&o.file).unwrap_or_default();
            if let Some(e) = o.binding.map(|b| without_name(&o.source, b, left, &wanted)) {
                let e = e.map_err(|r| vec![r])?;
                if e.as_ref().is_some_and(|e| e.text.is_empty()) {
                    assumed.extend(unloaded(s, o));
                }
                e.into_iter().for_each(|e| edits.add(&o.source, e));
            }
        }
        if all_go {
            edits.add(s, removal(s, function));
            assumed.extend(self.named_by_strings(s, b, &i.others));
            assumed.extend(unseen::elsewhere(self.project, &s.names.binding(b).name, s));
            let known = s.lang.is_private(&s.names.binding(b).name) || s.lang.hides(s, b);
            if s.tree.parent(function).is_some_and(|p| s.tree.role(p) == Role::Decorated) && !known {
                let message = format!("no code outside this project uses `{}`", s.names.binding(b).name);
                assumed.push(reason(s, function, Code::OutsideUsers, message));
            }
        }
        assumed.extend(self.stack_seen(s, function));
        assumed.extend(i.converted(&chosen));
        let outcome = self.outcome(edits, i.users.len() - chosen.len(), assumed);
        let gone = |o| with_emptied(self.project, s, with_comments(o, s, function));
        Ok(if all_go { gone(outcome) } else { outcome })
    }

    /// Strings that may lead to the function.
    fn named_by_strings(&self, s: &Source, b: BindingId, others: &[Other]) -> Vec<Reason> {
        let name = &s.names.binding(b).name;
        let say =
            |s: &Source, n| reason(s, n, Code::NamedByString, format!("nothing is looked up by the text `{name}`"));
        let files =
            std::iter::once(s).chain(others.iter().map(|o| &*o.source)).filter(|_| s.lang.exports_by_name(s, b));
        files.flat_map(|f| named_by_text(f, name).map(move |n| say(f, n)).collect::<Vec<_>>()).take(5).collect()
    }

    /// The function with all its users; or why it must stay.
    fn inlined<'a>(&self, s: &'a Arc<Source>, b: BindingId, function: NodeId) -> Found<Inlined<'a>> {
        let (t, binding) = (&s.tree, s.names.binding(b));
        let refuse = |n: NodeId, code: Code, message: &str| vec![reason(s, n, code, message)];
        let value = value_of(s, function);
        let around = t.parent(function).filter(|p| t.role(*p) == Role::Decorated);
        let marked = around
            .is_some_and(|p| t.children(p).any(|c| t.role(c) == Role::Decorator) || !s.lang.exports_by_name(s, b));
        if is_special(s, function) || marked || binding.writes != 1 || binding.scope != Names::MODULE {
            let message = "the function is decorated, a default export, a member, or no plain function";
            return Err(refuse(function, Code::UsedElsewhere, message));
        }
        let parameters = plain_parameters(s, function)
            .ok_or_else(|| refuse(function, Code::OddCall, "the function's parameters are not plain"))?;
        globals::stays(self.project, s, b).map_err(|r| vec![r])?;
        let file = self.project.index(&s.path).expect("a planned file was scanned");
        let others = others(self.project, file, &binding.name);
        if self.request.except.is_empty() {
            if let Some(n) = named_by_text(s, &binding.name).find(|n| is_listed(s, *n)) {
                return Err(refuse(n, Code::NamedByString, "the function is listed as public"));
            }
            if self.project.named_by_string(file, &binding.name) {
                return Err(refuse(
                    function,
                    Code::NamedByString,
                    "a text of the project names the function and its module",
                ));
            }
            for (f, other) in unseen::with_word(self.project, &binding.name, s.lang) {
                let looked = |n: &NodeId| unseen::looked_up(&other, *n, &binding.name).is_some();
                if let Some(n) = other.tree.ids().find(looked).filter(|_| f == file || self.project.imports(f, file)) {
                    return Err(vec![reason(&other, n, Code::NamedByString, "this looks the function up by its name")]);
                }
            }
            for o in &others {
                if let Some(n) = self.unseen_use(o, file, &binding.name, value.is_some()) {
                    return Err(vec![reason(&o.source, n, Code::UsedElsewhere, "this may use the function")]);
                }
            }
        }
        let users = all_users(s, b, &others);
        if users.is_empty() {
            return Err(refuse(function, Code::NeverUsed, "nothing uses the function"));
        }
        Ok(Inlined { home: s, function, value, parameters, receiver: None, users, others })
    }

    /// A method of one expression that only its class calls.
    pub fn method(&self, s: &Arc<Source>, function: NodeId) -> Found<Outcome> {
        let refuse = |code: Code, message: &str| vec![reason(s, function, code, message)];
        let value = value_of(s, function);
        let calls = crate::index::users::method_calls(self.project, s, function);
        let Some(calls) = calls.filter(|_| {
            !is_special(s, function) && s.tree.role(s.tree.parent(function).unwrap_or(function)) != Role::Decorated
        }) else {
            return Err(refuse(
                Code::UsedElsewhere,
                "the method may be used by more than plain calls of its own class",
            ));
        };
        let scope = s.names.scope_of(function).expect("a function opens a scope");
        let receiver = crate::index::method::method(s, function, scope).and_then(|m| m.receiver);
        let (Some(value), Some(receiver)) = (value, receiver) else {
            return Err(refuse(Code::MoreThanAValue, "only a method that returns one expression can be inlined"));
        };
        let mut parameters = plain_parameters(s, function)
            .ok_or_else(|| refuse(Code::OddCall, "the method's parameters are not plain"))?;
        parameters.retain(|p| *p != receiver);
        let used = |call: &NodeId| s.tree.child(*call, Field::Callee).unwrap_or(*call);
        let users: Vec<User> = calls.iter().map(|(c, _)| User { source: s.clone(), node: used(c) }).collect();
        let receiver = Some(receiver);
        let i = Inlined { home: s, function, value: Some(value), parameters, receiver, users, others: Vec::new() };
        if i.users.is_empty() {
            return Err(refuse(Code::NeverUsed, "nothing uses the method"));
        }
        let chosen = self.chosen(s, function, &i.users)?;
        let mut edits = Edits::default();
        for (_, e) in self.at_uses(&i, &chosen, &mut FxHashMap::default())? {
            edits.add(s, e);
        }
        if self.request.except.is_empty() {
            edits.add(s, removal(s, function));
        }
        let outcome = self.outcome(edits, i.users.len() - chosen.len(), i.converted(&chosen));
        Ok(if self.request.except.is_empty() { with_comments(outcome, s, function) } else { outcome })
    }

    /// A place of another file that keeps the function where it is.
    fn unseen_use(&self, o: &Other, home: usize, name: &str, is_value: bool) -> Option<NodeId> {
        let passed_on = |b: &BindingId| !o.source.names.references_to(*b).any(|r| r.usage.reads()) || !is_value;
        let kept = o.binding.filter(passed_on).map(|b| o.source.names.binding(b).first);
        kept.or(o.stray(self.project, home, name))
    }

    /// Of each chosen use, the edit that puts what the function does in its place; or all that speaks against.
    fn at_uses(
        &self,
        i: &Inlined,
        chosen: &[usize],
        wanted: &mut FxHashMap<usize, Vec<String>>,
    ) -> Found<Vec<(usize, Edit)>> {
        let mut callers = Callers::default();
        let spread = match i.value {
            Some(_) => None,
            None => Some(Spread::new(i.home, i.function, &i.parameters).map_err(|r| vec![r])?),
        };
        let mut good = Vec::new();
        let mut against = Vec::new();
        for k in chosen {
            let u = &i.users[*k];
            let edit = match (i.value, &spread) {
                (Some(v), _) => self.call(i, v, u, wanted),
                (None, Some(x)) if u.source.path == i.home.path => x.at(u.node, &mut callers, None),
                _ => Err(reason(&u.source, u.node, Code::UsedElsewhere, "several statements stay in their file")),
            };
            match edit {
                Ok(e) => good.push((*k, e)),
                Err(r) => against.push(of_use(*k, i.users.len(), r)),
            }
        }
        if let Some(last) = against.last_mut().filter(|_| !good.is_empty()) {
            let kept = |k: &usize| !good.iter().any(|(g, _)| g + 1 == *k);
            let left: Vec<String> = (1..=i.users.len()).filter(kept).map(|k| k.to_string()).collect();
            last.message.push_str(&format!("; `--except {}` leaves such uses as they are", left.join(",")));
        }
        if against.is_empty() { Ok(good) } else { Err(against) }
    }

    /// The edit that puts the function's expression in the place of a call.
    fn call(
        &self,
        i: &Inlined,
        value: NodeId,
        user: &User,
        wanted: &mut FxHashMap<usize, Vec<String>>,
    ) -> Result<Edit, Reason> {
        let (s, t) = (i.home, &i.home.tree);
        let (at, used) = (&user.source, user.node);
        let no = |code: Code, message: &str| reason(at, used, code, message);
        let (call, given) = plain_call(at, used, i.parameters.len())?;
        let again = |n: NodeId| at.tree.child(n, Field::Callee).is_some_and(|c| at.str(c) == at.str(used));
        if given.iter().any(|g| at.tree.subtree(*g).any(|n| at.tree.role(n) == Role::Call && again(n))) {
            return Err(no(Code::OddCall, "a call of the function stands inside this one"));
        }
        in_order(s, &i.parameters, value, at, &given).map_err(|m| no(Code::EvaluationOrder, m))?;
        let sticks = |n: NodeId| {
            matches!(t.role(n), Role::Await | Role::Yield | Role::FrameName)
                || t.role(n) == Role::Name && (s.lang.is_frame_name(s.str(n)) || s.lang.needs_class(s.str(n)))
                || Some(s.str(n)) == s.lang.object_word() && !i.is_receiver(n)
        };
        if t.subtree(value).any(sticks) {
            return Err(no(Code::Reflection, "the expression belongs to its function"));
        }
        let foreign = s.names.in_range(value, t.end(value)).iter();
        let own = |b: BindingId| i.parameters.contains(&b) || i.receiver == Some(b);
        for r in foreign.filter(|r| !r.target.is_some_and(own)) {
            self.reached(i, value, r.node, at, call, wanted).map_err(|()| {
                no(Code::NameHidden, &format!("`{}` of the function means something else here", s.str(r.node)))
            })?;
        }
        let types = s.path != at.path && t.subtree(value).any(|n| t.role(n) == Role::Type);
        if types {
            return Err(no(Code::NameHidden, "a type of the function may mean something else here"));
        }
        let span = at.tree.span(call);
        let object = at.tree.child(used, Field::Object);
        Ok(Edit::new(span.start, span.end, in_brackets(s, value, at, call, i.text(value, at, &given, object))))
    }

    /// A name of the function means the same at the call, or can be imported there.
    fn reached(
        &self,
        i: &Inlined,
        value: NodeId,
        name: NodeId,
        at: &Arc<Source>,
        call: NodeId,
        wanted: &mut FxHashMap<usize, Vec<String>>,
    ) -> Result<(), ()> {
        let s = i.home;
        if s.path == at.path {
            return if hidden_at(s, name, value, call) { Err(()) } else { Ok(()) };
        }
        let target = s.names.at(name).and_then(|r| r.target);
        if target.is_some_and(|b| s.tree.contains(value, s.names.scope(s.names.binding(b).scope).node)) {
            return Ok(());
        }
        let word = s.str(name);
        let scopes = at.tree.ancestors(call).filter_map(|a| at.names.scope_of(a)).filter(|x| *x != Names::MODULE);
        if scopes.into_iter().any(|x| at.names.declared_in(x, word).is_some()) {
            return Err(());
        }
        let meant = self.project.entity(s, word);
        if self.project.entity(at, word) == meant {
            return Ok(());
        }
        let importable = matches!(meant, Entity::Member(f, _) if Some(f) == self.project.index(&s.path))
            && target.is_some_and(|b| s.lang.exports_by_name(s, b) && s.names.binding(b).writes == 1);
        let free = !at.tree.ids().any(|n| at.tree.role(n) == Role::Name && at.str(n) == word);
        let file = self.project.index(&at.path).filter(|_| importable && free).ok_or(())?;
        // where files load each other, the name may not be there yet
        if self.project.index(&s.path).is_none_or(|h| self.project.modules().reaches(h, file)) {
            return Err(());
        }
        let list: &mut Vec<String> = wanted.entry(file).or_default();
        if !list.iter().any(|w| w == word) {
            list.push(word.to_string());
        }
        Ok(())
    }
}

impl Inlined<'_> {
    fn is_receiver(&self, name: NodeId) -> bool {
        self.receiver.is_some() && self.home.names.at(name).and_then(|r| r.target) == self.receiver
    }

    /// The expression with arguments for parameters, and the call's object for the method's.
    fn text(&self, value: NodeId, at: &Source, given: &[NodeId], object: Option<NodeId>) -> String {
        let receivers = self.home.names.in_range(value, self.home.tree.end(value)).iter().map(|r| r.node);
        let receivers = receivers.filter(|n| object.is_some() && self.is_receiver(*n));
        let words: Vec<(NodeId, String)> = object.map_or(Vec::new(), |o| {
            receivers.map(|n| (n, in_brackets(at, o, self.home, n, at.str(o).into()))).collect()
        });
        self.text_with(value, at, given, &words)
    }

    /// The same with other texts for some words.
    pub fn text_with(&self, value: NodeId, at: &Source, given: &[NodeId], words: &[(NodeId, String)]) -> String {
        let (s, t) = (self.home, &self.home.tree);
        let mut text = String::new();
        let mut from = t.span(value).start;
        for r in s.names.in_range(value, t.end(value)) {
            let k = r.target.and_then(|b| self.parameters.iter().position(|p| *p == b));
            let word = words.iter().find(|(n, _)| *n == r.node).map(|(_, text)| text.clone());
            let given = k.map(|k| in_brackets(at, given[k], s, r.node, at.str(given[k]).to_string()));
            let Some(own) = given.or(word) else { continue };
            let span = t.span(r.node);
            text.push_str(&s.text[from..span.start]);
            match one_word_pair(t, r.node) {
                Some(_) if own != s.str(r.node) => text.push_str(&format!("{}: {own}", s.str(r.node))),
                _ => text.push_str(&own),
            }
            from = span.end;
        }
        text + &s.text[from..t.span(value).end]
    }
}

/// Uses of a variable or a function: those in its file, and those in others.
pub fn users(project: &Project, s: &Arc<Source>, b: BindingId) -> Vec<User> {
    let binding = s.names.binding(b);
    let file = project.index(&s.path).filter(|_| binding.scope == Names::MODULE);
    all_users(s, b, &file.map_or(Vec::new(), |f| others(project, f, &binding.name)))
}

fn all_users(s: &Arc<Source>, b: BindingId, others: &[Other]) -> Vec<User> {
    let of_others = others.iter().flat_map(|o| o.binding.map_or(Vec::new(), |x| users_of(&o.source, x)));
    users_of(s, b).into_iter().chain(of_others).collect()
}

fn users_of(s: &Arc<Source>, b: BindingId) -> Vec<User> {
    let reads = s.names.references_to(b).filter(|r| r.usage.reads());
    reads.map(|r| User { source: s.clone(), node: r.node }).collect()
}

/// The file may have loaded the function's module only for it, and for what loading it does.
fn unloaded(home: &Source, o: &Other) -> Option<Reason> {
    let t = &home.tree;
    let acts = t.children(Tree::ROOT).any(|c| !home.lang.is_plain_top_level(t, c, &home.text));
    let (_, _, alone) = import_item(&o.source, o.binding?)?;
    let first = o.source.names.binding(o.binding?).first;
    let message = format!("nothing needs {} to be loaded here", home.path);
    (acts && alone).then(|| reason(&o.source, first, Code::ImportEffects, message))
}

/// What a function of one statement returns.
pub(super) fn value_of(s: &Source, function: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let body = t.child(function, Field::Body)?;
    let statements: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Doc).collect();
    match statements[..] {
        [one] if t.role(one) == Role::Return => t.children(one).next().filter(|v| t.role(*v) != Role::Values),
        _ => None,
    }
}

/// It waits, or gives one value after the other.
pub(super) fn is_special(s: &Source, function: NodeId) -> bool {
    let t = &s.tree;
    t.children(function).any(|c| t.role(c) == Role::AsyncMark || t.role(c) == Role::Token && s.str(c) == "*")
}

/// Tells the comments that go with a function: those over it, and where only its value stays those in it.
pub(super) fn with_comments(mut outcome: Outcome, s: &Source, function: NodeId) -> Outcome {
    let t = &s.tree;
    let span = t.span(function);
    let start = crate::plan::lines::comments_above(s, crate::plan::lines::line_start(&s.text, span.start));
    let body = t.child(function, Field::Body).filter(|_| value_of(s, function).is_none());
    let kept = |c: &crate::text::Span| body.is_some_and(|b| t.span(b).contains(*c));
    let gone = t.comments().iter().filter(|c| start <= c.start && c.end <= span.end && !kept(c));
    let told = gone.map(|c| format!("the comment \"{}\" goes with it", s.lang.comment_text(&s.text[c.start..c.end])));
    outcome.remarks.extend(told);
    outcome
}

/// The definition with its comments, and the blank lines before it; those after it where it is the first of its class or file.
pub(super) fn removal(s: &Source, function: NodeId) -> Edit {
    let t = &s.tree;
    let whole = t.parent(function).filter(|p| t.role(*p) == Role::Decorated).unwrap_or(function);
    let span = crate::plan::lines::whole_lines(s, t.span(whole));
    let start = crate::plan::lines::comments_above(s, span.start);
    let block = t.parent(whole).filter(|b| *b != Tree::ROOT);
    if start == 0 || block.is_some_and(|b| t.children(b).next() == Some(whole)) {
        let blank = s.text[span.end..].split_inclusive('\n').take_while(|l| l.trim().is_empty()).map(str::len);
        return Edit::new(start, span.end + blank.sum::<usize>(), "");
    }
    let start = s.text[..start].trim_end().len();
    let keep = usize::from(start > 0 && !s.text[span.end..].is_empty());
    Edit::new(start, span.end, "\n".repeat(keep))
}
