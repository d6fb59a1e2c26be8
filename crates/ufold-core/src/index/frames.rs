//! Functions that look at those which called them: at the stack, at the caller's frame, at how deep they are called.
//!
//! Which functions may come to such a look is followed by words: whoever calls a function of a name that looks, looks too,
//! except where the file itself says that the name means another function. That tells too many of methods with everyday
//! names, and none that is called by a variable alone.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::change::{Code, Reason, reason};
use crate::index::declared::value_of;
use crate::lang::Language;
use crate::names::{BindKind, BindingId, ScopeKind, Source};
use crate::tree::{Field, NodeId, Role};

/// Names of functions by which the stack may be looked at, each with the place of the look.
#[derive(Default)]
pub(crate) struct Lookers {
    by_name: FxHashMap<String, Arc<Look>>,
    /// Those that files declare, each by its file.
    declared: FxHashMap<(String, BindingId), Arc<Look>>,
    /// More names than are followed: any function may look.
    any: Option<Arc<Look>>,
}

struct Look {
    source: Arc<Source>,
    node: NodeId,
}

/// Whose calls are still to be looked for: those of a function in its file, or those of a name in all files.
enum Called {
    Here(Arc<Source>, BindingId, Arc<Look>),
    Anywhere(String),
}

/// The function that a bare name means, where its file declares it.
fn declared(s: &Source, name: NodeId) -> Option<(String, BindingId)> {
    let function = s.names.at(name)?.target?;
    (s.names.binding(function).kind == BindKind::Function).then(|| (s.path.clone(), function))
}

/// A function within a function that nothing but calls of it names.
fn stays_inside(s: &Source, function: BindingId) -> bool {
    let t = &s.tree;
    let b = s.names.binding(function);
    let around = std::iter::successors(Some(b.scope), |x| s.names.scope(*x).parent);
    let inside = around.map(|x| s.names.scope(x).kind).find(|k| !k.runs_at_once()) == Some(ScopeKind::Function);
    let called = |n: NodeId| is_called(s, n) || t.parent(n).is_some_and(|p| t.name_of_callable(p) == Some(n));
    inside && s.names.references_to(function).all(|r| called(r.node))
}

/// Names that are followed.
const MOST: usize = 60;

/// Files in whose code a word stands, and whose texts have all of these.
type WithName<'a> = dyn Fn(&str, &[&str]) -> Vec<Arc<Source>> + 'a;

impl Lookers {
    pub(crate) fn of(lang: &dyn Language, with_name: &WithName) -> Lookers {
        let mut out = Lookers::default();
        let mut todo: Vec<Called> = Vec::new();
        for words in lang.stack_words() {
            let word = words.rsplit('.').next().unwrap_or(words);
            for s in with_name(word, &parts(words)) {
                for node in s.tree.ids().filter(|n| s.str(*n) == word && is_look(&s, *n, words)) {
                    let look = Arc::new(Look { source: s.clone(), node });
                    out.add(&s, node, &look, &mut todo);
                }
            }
        }
        while let Some(called) = todo.pop() {
            match called {
                Called::Here(s, function, look) => {
                    for r in s.names.references_to(function).filter(|r| is_called(&s, r.node)) {
                        out.add(&s, r.node, &look, &mut todo);
                    }
                }
                Called::Anywhere(name) => {
                    let look = out.by_name[&name].clone();
                    if out.by_name.len() > MOST {
                        out.any = Some(look);
                        break;
                    }
                    with_name(&name, &[]).iter().for_each(|s| out.follow(s, &name, &look, &mut todo));
                }
            }
        }
        out
    }

    /// The functions of a file that call a name which looks.
    fn follow(&mut self, s: &Arc<Source>, name: &str, look: &Arc<Look>, todo: &mut Vec<Called>) {
        let t = &s.tree;
        let words: Vec<NodeId> = t.ids().filter(|n| t.is_leaf(*n) && s.str(*n) == name).collect();
        for n in words {
            // under another name it looks as well
            let alias = t.ancestor(n, &[Role::ImportAlias, Role::ImportFrom]);
            if let Some(a) = alias.filter(|a| t.role(*a) == Role::ImportAlias) {
                let alias = t.child(a, Field::Alias).map(|x| s.str(x).to_string());
                alias.into_iter().for_each(|a| self.put(a, look, todo));
            } else if is_called(s, n) && declared(s, n).is_none_or(|d| self.declared.contains_key(&d)) {
                self.add(s, n, look, todo);
            }
        }
    }

    /// The function around a place looks.
    fn add(&mut self, s: &Arc<Source>, place: NodeId, look: &Arc<Look>, todo: &mut Vec<Called>) {
        let t = &s.tree;
        let around = t.ancestors(place).filter(|a| t.role(*a).is_callable());
        let Some(name) = around.filter_map(|f| t.name_of_callable(f)).next() else { return };
        let word = s.str(name).to_string();
        if s.lang.is_constructor(&word) {
            let class = t.ancestor(name, &[Role::Class]).and_then(|c| t.child(c, Field::Name));
            class.into_iter().for_each(|c| self.put(s.str(c).to_string(), look, todo));
        }
        if let Some(function) = declared(s, name) {
            let id = function.1;
            if self.declared.insert(function, look.clone()).is_none() {
                todo.push(Called::Here(s.clone(), id, look.clone()));
            }
            if stays_inside(s, id) {
                return;
            }
        }
        self.put(word, look, todo);
    }

    fn put(&mut self, name: String, look: &Arc<Look>, todo: &mut Vec<Called>) {
        if !self.by_name.contains_key(&name) {
            self.by_name.insert(name.clone(), look.clone());
            todo.push(Called::Anywhere(name));
        }
    }

    /// Why code may not be put into a function of its own, or be taken out of one, unseen.
    pub(crate) fn seen_from(&self, s: &Source, nodes: impl Iterator<Item = NodeId>) -> Option<Reason> {
        let mut called: FxHashSet<&str> = FxHashSet::default();
        let found = nodes.filter(|n| s.tree.is_leaf(*n) && is_called(s, *n)).find_map(|n| {
            let own = || s.names.at(n).is_none_or(|r| r.target.is_some()) && !s.lang.is_builtin(s.str(n));
            let look = match declared(s, n) {
                Some(function) => self.declared.get(&function),
                None => self.by_name.get(s.str(n)),
            };
            let look = look.or(self.any.as_ref().filter(|_| own()));
            look.filter(|_| called.insert(s.str(n))).cloned()
        })?;
        let message = "nothing depends on which functions this finds above it: it is called from the code, too";
        Some(reason(&found.source, found.node, Code::StackSeen, message))
    }
}

/// What a text with such words has in it.
fn parts(words: &str) -> Vec<&str> {
    match words.split_once('.') {
        Some(("*", _)) => vec![&words[1..]],
        Some((of, word)) => vec![of, word],
        None => vec![words],
    }
}

/// A word that names what is called: the callee, or the last word of its path.
fn is_called(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let path = t.parent(n).filter(|p| t.role(*p) == Role::Member && t.field(n) == Field::Member).unwrap_or(n);
    let is_callee = |p: NodeId| t.role(p) == Role::Call && t.field(path) == Field::Callee;
    matches!(t.role(n), Role::Name | Role::MemberName) && t.parent(path).is_some_and(is_callee)
}

/// `this.stack = new Error().stack`: an error of one's own has it as every error has, where the file does not read it.
fn is_kept_as_it_is(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let value = t.ancestors(n).find(|a| !matches!(t.role(*a), Role::Member | Role::Paren));
    let value = value.filter(|a| t.role(*a) == Role::Assign).and_then(|a| t.child(a, Field::Left));
    let of_self = |to: &NodeId| t.child(*to, Field::Object).is_some_and(|o| s.lang.object_word() == Some(s.str(o)));
    let member = value.filter(of_self).and_then(|to| t.child(to, Field::Member));
    let is_read = |m: NodeId| {
        let path = t.parent(m).filter(|p| t.role(m) == Role::MemberName && s.str(m) == s.str(n) && of_self(p));
        path.is_some_and(|p| t.field(p) != Field::Left)
    };
    member.is_some_and(|m| s.str(m) == s.str(n)) && !t.ids().any(is_read)
}

/// The word looks at the stack. `words`: a word for itself, one behind its module or class, or one behind `*`, an object
/// that is made there: what was caught only tells where it was thrown.
fn is_look(s: &Source, n: NodeId, words: &str) -> bool {
    let t = &s.tree;
    let before = words.rsplit_once('.').map(|(before, _)| before);
    let object = t.parent(n).filter(|p| t.role(*p) == Role::Member).and_then(|p| t.child(p, Field::Object));
    let is_made = |o: NodeId| t.role(value_of(s, o).unwrap_or(o)) == Role::Call;
    match (t.role(n), before) {
        (Role::Name, None) => s.names.at(n).is_some_and(|r| {
            let own = r.target.is_some_and(|b| s.names.binding(b).kind != BindKind::Import);
            r.usage.reads() && !own
        }),
        (Role::Name, Some(module)) => {
            let import = s.names.at(n).and_then(|r| s.names.binding(r.target?).import.as_ref());
            import.is_some_and(|i| i.module == module)
        }
        (Role::MemberName, None) => true,
        (Role::MemberName, Some("*")) => object.is_some_and(is_made) && !is_kept_as_it_is(s, n),
        (Role::MemberName, Some(of)) => object.is_some_and(|o| s.str(o) == of),
        // two steps up are the call itself and who made it
        (Role::KeywordName, None) => {
            let value = t.parent(n).and_then(|p| t.child(p, Field::Value));
            !value.is_some_and(|v| ["0", "1", "2"].contains(&s.str(v)))
        }
        _ => false,
    }
}
