//! A file read for planning: text, tree and names together.

use std::any::{Any, TypeId};
use std::sync::{Arc, Mutex, OnceLock};

use rustc_hash::{FxHashMap, FxHashSet};

use super::habits::Habits;
use super::{BindKind, BindingId, Names, Reference, Use};
use crate::lang::{Language, ModuleName, NameSpaces};
use crate::text::{LineIndex, Span};
use crate::tree::{Field, NodeId, ParseError, Role, Tree, parse};

pub struct Source {
    /// Relative to the root, with `/`.
    pub path: String,
    pub text: Arc<str>,
    pub tree: Tree,
    pub names: Names,
    pub lines: LineIndex,
    pub lang: &'static dyn Language,
    pub module: Option<ModuleName>,
    habits: OnceLock<Habits>,
    remembered: Remembered,
    told: OnceLock<Told>,
    spaces: OnceLock<Option<NameSpaces>>,
    /// Names of functions of the project that ask who calls them.
    pub asking: FxHashSet<String>,
}

/// What only the project knows of a file.
pub struct Told {
    /// Calls of functions of other files that only compute, and whether surely.
    pub quiet: FxHashMap<NodeId, bool>,
    /// Calls of methods that only compute when the object is one of the language's own.
    /// Whether they make an object.
    pub likely: FxHashMap<NodeId, bool>,
    /// No other file imports it.
    pub alone: bool,
}

/// What was worked out about a file, by what it was worked out for.
type Remembered = Mutex<FxHashMap<(TypeId, NodeId, Option<NodeId>), Arc<dyn Any + Send + Sync>>>;

impl Source {
    pub fn new(
        path: &str,
        text: Arc<str>,
        lang: &'static dyn Language,
        module: Option<ModuleName>,
    ) -> Result<Source, ParseError> {
        let tree = parse(&text, lang)?;
        let names = lang.names(&tree, &text);
        let lines = LineIndex::new(&text);
        Ok(Source {
            path: path.to_string(),
            text,
            tree,
            names,
            lines,
            lang,
            module,
            habits: OnceLock::new(),
            remembered: Remembered::default(),
            told: OnceLock::new(),
            spaces: OnceLock::new(),
            asking: FxHashSet::default(),
        })
    }

    /// Calls of functions of other files that only compute, and whether surely, where the project was asked for them.
    pub fn quiet_elsewhere(&self) -> Option<&FxHashMap<NodeId, bool>> {
        self.told.get().map(|t| &t.quiet)
    }

    /// A call of a method that only computes when the object is one of the language's own, which most likely it is.
    /// Whether it makes an object.
    pub fn likely_quiet(&self, call: NodeId) -> Option<bool> {
        self.told.get().and_then(|t| t.likely.get(&call).copied())
    }

    /// A call that sees, or is told, which function it is made from.
    pub fn reads_frame(&self, call: NodeId) -> bool {
        let Some(callee) = self.tree.child(call, Field::Callee) else { return false };
        let word = self.str(self.tree.child(callee, Field::Member).unwrap_or(callee));
        let asks = self.asking.contains(word.split('<').next().unwrap_or(word));
        asks || self.lang.reads_frame(self.str(callee), self.str(call)) || self.lang.tells_caller(self, call)
    }

    /// Surely no other file imports it.
    pub fn is_alone(&self) -> bool {
        self.told.get().is_some_and(|t| t.alone)
    }

    /// What the project says of the file. Said once.
    pub fn tell(&self, told: Told) {
        let _ = self.told.set(told);
    }

    /// What stands before the last item of a list in brackets, for one more: a line of its own, or a blank.
    pub fn gap_in(&self, list: NodeId) -> &str {
        let t = &self.tree;
        let items: Vec<NodeId> = t.children(list).collect();
        let Some((last, before)) = items.split_last() else { return " " };
        let from = before.last().map_or(t.span(list).start + 1, |b| t.span(*b).end);
        let gap = self.text[from..t.span(*last).start].trim_start_matches(',');
        if gap.contains('\n') && gap.trim().is_empty() { gap } else { " " }
    }

    /// What it says of name spaces.
    pub fn name_spaces(&self) -> Option<&NameSpaces> {
        self.spaces.get_or_init(|| self.lang.name_spaces(&self.tree, &self.text)).as_ref()
    }

    /// How its author writes.
    pub fn habits(&self) -> &Habits {
        self.habits.get_or_init(|| Habits::of(&self.text, &self.tree, self.lang))
    }

    /// What `make` gives for a key, made once. One kind of thing for each key.
    pub fn remember<T: Any + Send + Sync>(&self, key: (NodeId, Option<NodeId>), make: impl FnOnce() -> T) -> Arc<T> {
        let key = (TypeId::of::<T>(), key.0, key.1);
        let kept = |all: &FxHashMap<_, Arc<dyn Any + Send + Sync>>| all.get(&key).cloned();
        let found = kept(&self.remembered.lock().unwrap_or_else(|e| e.into_inner()));
        if let Some(known) = found.and_then(|f| f.downcast::<T>().ok()) {
            return known;
        }
        let made = Arc::new(make());
        self.remembered.lock().unwrap_or_else(|e| e.into_inner()).insert(key, made.clone());
        made
    }

    /// Goes over several lines without brackets that hold them together.
    pub fn breaks_outside_brackets(&self, node: NodeId) -> bool {
        let t = &self.tree;
        let (mut at, mut depth) = (t.span(node).start, 0);
        let leaves = t.subtree(node).filter(|n| t.is_leaf(*n)).map(|n| t.span(n));
        for leaf in leaves.chain([Span::new(t.span(node).end, t.span(node).end)]) {
            for c in self.text[at..leaf.start.max(at)].chars() {
                match c {
                    '(' | '[' | '{' => depth += 1,
                    ')' | ']' | '}' => depth -= 1,
                    '\n' if depth == 0 => return true,
                    _ => {}
                }
            }
            at = leaf.end.max(at);
        }
        false
    }

    /// Reads a variable that code which is called meanwhile can give another value: one of a module or an object that gets
    /// values in more than one place, or one of a function that inner functions assign.
    pub fn reads_what_may_change(&self, name: NodeId) -> bool {
        if self.tree.role(name) != Role::Name {
            return false;
        }
        let Some(r) = self.names.at(name).filter(|r| r.usage.reads() && !r.is_type()) else { return false };
        let Some(b) = r.target else {
            let word = self.str(name);
            let called = self.tree.field(name) == Field::Callee;
            let class = r.may_be_type() && word.starts_with(char::is_uppercase);
            return !(called || class || self.lang.is_builtin(word));
        };
        let binding = self.names.binding(b);
        if self.names.is_member(b) {
            return binding.kind == BindKind::Variable && !self.lang.is_final(self, b);
        }
        binding.rebound_inside || binding.scope == Names::MODULE && binding.writes > 1
    }

    /// Code can see what a local is called: another name would be another program. True of what is imported, of classes
    /// and what stands in them, and of functions that are decorated or handed on, with their parameters.
    pub fn shows_its_name(&self, b: BindingId) -> bool {
        let (t, binding) = (&self.tree, self.names.binding(b));
        let parent = t.parent(binding.first);
        if self.lang.name_members().is_empty() && matches!(binding.kind, BindKind::Function | BindKind::Parameter) {
            return false;
        }
        let home = self.names.scope(binding.scope).node;
        match binding.kind {
            BindKind::Import | BindKind::Class => true,
            BindKind::Function => {
                let function = if t.role(binding.first).is_callable() { Some(binding.first) } else { parent };
                self.is_handed_on(b) || function.is_some_and(|f| self.is_decorated(f))
            }
            BindKind::Parameter if t.role(home) == Role::Function => {
                let name = t.child(home, Field::Name).and_then(|n| self.names.at(n)).and_then(|r| r.target);
                name.is_some_and(|f| f != b && self.shows_its_name(f))
            }
            // a class without a name gets the variable's
            _ => {
                let value = parent.and_then(|p| t.child(p, Field::Right));
                t.role(home) == Role::Class || value.is_some_and(|v| t.role(v) == Role::Class)
            }
        }
    }

    /// A word by which a function reads its parameters otherwise than by their names, also after they got other values.
    pub fn reads_parameters_unnamed(&self, function: NodeId) -> Option<NodeId> {
        let t = &self.tree;
        t.subtree(function).find(|n| t.role(*n) == Role::Name && self.lang.is_frame_name(self.str(*n)))
    }

    fn is_decorated(&self, function: NodeId) -> bool {
        self.tree.parent(function).is_some_and(|p| self.tree.role(p) == Role::Decorated)
    }

    /// Used otherwise than by calling it.
    fn is_handed_on(&self, b: BindingId) -> bool {
        let called = |r: &Reference| self.tree.field(r.node) == Field::Callee || r.usage != Use::Read;
        !self.names.references_to(b).all(called)
    }

    /// A place in a text that shows the code which it evaluates.
    pub fn shows_its_code(&self, id: NodeId) -> bool {
        let t = &self.tree;
        let value = t.children(id).find(|c| t.role(*c) != Role::Token);
        let rest = value.map(|v| &self.text[t.span(v).end..t.span(id).end]);
        let callee = || t.child(id, Field::Callee).map_or("", |c| self.str(c));
        t.role(id) == Role::Interpolation && rest.is_some_and(|r| self.lang.shows_code(r))
            || t.role(id) == Role::Call && self.lang.shows_words().contains(&callee())
    }

    /// The language itself looks for the name in a file.
    pub fn has_a_meaning(&self, name: &str) -> bool {
        self.lang.is_special_member(name) || self.lang.is_module_own(name) || Some(name) == self.lang.public_list()
    }

    /// The packages that the file stands in, outermost first; none where it is no module.
    pub fn package(&self) -> Option<&[String]> {
        self.module.as_ref().map(|m| m.package())
    }

    /// The class around a place, or the file where members stand without one.
    pub fn class_around(&self, place: NodeId) -> Option<NodeId> {
        self.tree.ancestor(place, &[Role::Class]).or_else(|| self.members_without_class())
    }

    /// The file, as what has members that stand without a class.
    pub fn members_without_class(&self) -> Option<NodeId> {
        (self.names.members_in_sight && self.lang.has_free_functions(self)).then_some(Tree::ROOT)
    }

    pub fn str(&self, id: NodeId) -> &str {
        self.tree.text(id, &self.text)
    }
    /// Line of a node's start, from 1.
    pub fn line(&self, id: NodeId) -> usize {
        self.lines.line(self.tree.span(id).start)
    }
}
