//! Functions that look at those which called them: at the stack, at the caller's frame, at how deep they are called.
//!
//! Which functions may come to such a look is followed by words: whoever calls a function of a name that looks, looks too.
//! That tells too many of functions with everyday names, and none that is called by a variable alone.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::change::{Reason, reason};
use crate::index::declared::value_of;
use crate::lang::Language;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// Names of functions by which the stack may be looked at, each with the place of the look.
#[derive(Default)]
pub(crate) struct Lookers {
    by_name: FxHashMap<String, Arc<Look>>,
    /// More names than are followed: any function may look.
    any: Option<Arc<Look>>,
}

struct Look {
    source: Arc<Source>,
    node: NodeId,
}

/// Names that are followed.
const MOST: usize = 60;

/// Files in whose code a word stands, and whose texts have all of these.
type WithName<'a> = dyn Fn(&str, &[&str]) -> Vec<Arc<Source>> + 'a;

impl Lookers {
    pub(crate) fn of(lang: &dyn Language, with_name: &WithName) -> Lookers {
        let mut out = Lookers::default();
        let mut todo: Vec<String> = Vec::new();
        for words in lang.stack_words() {
            let word = words.rsplit('.').next().unwrap_or(words);
            for s in with_name(word, &parts(words)) {
                for node in s.tree.ids().filter(|n| s.str(*n) == word && is_look(&s, *n, words)) {
                    let look = Arc::new(Look { source: s.clone(), node });
                    out.add(&s, node, &look, &mut todo);
                }
            }
        }
        while let Some(name) = todo.pop() {
            let look = out.by_name[&name].clone();
            if out.by_name.len() > MOST {
                out.any = Some(look);
                break;
            }
            for s in with_name(&name, &[]) {
                let t = &s.tree;
                let words: Vec<NodeId> = t.ids().filter(|n| t.is_leaf(*n) && s.str(*n) == name).collect();
                for n in words {
                    // under another name it looks as well
                    if let Some(a) = t
                        .ancestor(n, &[Role::ImportAlias, Role::ImportFrom])
                        .filter(|a| t.role(*a) == Role::ImportAlias)
                    {
                        let alias = t.child(a, Field::Alias).map(|x| s.str(x).to_string());
                        alias.into_iter().for_each(|a| out.put(a, &look, &mut todo));
                    } else if is_called(&s, n) {
                        out.add(&s, n, &look, &mut todo);
                    }
                }
            }
        }
        out
    }

    /// The function around a place looks.
    fn add(&mut self, s: &Source, place: NodeId, look: &Arc<Look>, todo: &mut Vec<String>) {
        let t = &s.tree;
        let around = t.ancestors(place).filter(|a| t.role(*a).is_callable());
        let Some(name) = around.filter_map(|f| t.name_of_callable(f)).next() else { return };
        let word = s.str(name).to_string();
        if s.lang.is_constructor(&word) {
            let class = t.ancestor(name, &[Role::Class]).and_then(|c| t.child(c, Field::Name));
            class.into_iter().for_each(|c| self.put(s.str(c).to_string(), look, todo));
        }
        self.put(word, look, todo);
    }

    fn put(&mut self, name: String, look: &Arc<Look>, todo: &mut Vec<String>) {
        if !self.by_name.contains_key(&name) {
            self.by_name.insert(name.clone(), look.clone());
            todo.push(name);
        }
    }

    /// Why code may not be put into a function of its own, or be taken out of one, unseen.
    pub(crate) fn seen_from(&self, s: &Source, nodes: impl Iterator<Item = NodeId>) -> Option<Reason> {
        let mut called: FxHashSet<&str> = FxHashSet::default();
        let found = nodes.filter(|n| s.tree.is_leaf(*n) && is_called(s, *n)).find_map(|n| {
            let own = || s.names.at(n).is_none_or(|r| r.target.is_some()) && !s.lang.is_builtin(s.str(n));
            let look = self.by_name.get(s.str(n)).or(self.any.as_ref().filter(|_| own()));
            look.filter(|_| called.insert(s.str(n))).cloned()
        })?;
        let message = "nothing depends on which functions this finds above it: it is called from the code, too";
        Some(reason(&found.source, found.node, "stack-seen", message))
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

/// The word looks at the stack. `words`: a word for itself, one behind its module or class, or one behind `*`, an object
/// that is made there: what was caught only tells where it was thrown.
fn is_look(s: &Source, n: NodeId, words: &str) -> bool {
    let t = &s.tree;
    let before = words.rsplit_once('.').map(|(before, _)| before);
    let object = t.parent(n).filter(|p| t.role(*p) == Role::Member).and_then(|p| t.child(p, Field::Object));
    let is_made = |o: NodeId| t.role(value_of(s, o).unwrap_or(o)) == Role::Call;
    match (t.role(n), before) {
        (Role::Name, None) => s.names.at(n).is_some_and(|r| r.usage.reads()),
        (Role::Name, Some(module)) => {
            let import = s.names.at(n).and_then(|r| s.names.binding(r.target?).import.as_ref());
            import.is_some_and(|i| i.module == module)
        }
        (Role::MemberName, None) => true,
        (Role::MemberName, Some("*")) => object.is_some_and(is_made),
        (Role::MemberName, Some(of)) => object.is_some_and(|o| s.str(o) == of),
        // two steps up are the call itself and who made it
        (Role::KeywordName, None) => {
            let value = t.parent(n).and_then(|p| t.child(p, Field::Value));
            !value.is_some_and(|v| ["0", "1", "2"].contains(&s.str(v)))
        }
        _ => false,
    }
}
