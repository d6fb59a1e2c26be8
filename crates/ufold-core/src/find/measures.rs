//! Measures of functions, in one pass over a file's tree.
//!
//! Cyclomatic complexity: T. J. McCabe, “A Complexity Measure”, IEEE Transactions on Software Engineering SE-2 (1976),
//! with each condition of a compound one counted by itself, as the paper's section on it has it. Cognitive complexity:
//! G. A. Campbell, “Cognitive Complexity: A new way of measuring understandability” (2018); of recursion only that of a
//! function which calls itself is seen. Functions inside, and lambdas that hold statements, belong to the cognitive
//! complexity of those around them, and have a cyclomatic one of their own.

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use crate::lang::Language;
use crate::tree::{Field, NodeId, Role, Tree};

/// How large and how tangled a function is. All are counts.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Measures {
    /// Lines with code, those of the head and of inner functions too.
    pub code_lines: u32,
    /// Those outside of the functions in it.
    pub own_lines: u32,
    /// Statements in its blocks, those of inner functions too.
    pub statements: u32,
    /// Branches, loops, handlers and functions inside each other, at the deepest place.
    pub nesting: u32,
    /// Independent ways through it; 1 for straight code.
    pub cyclomatic: u32,
    /// Effort to follow its flow; 0 for straight code.
    pub cognitive: u32,
    /// Parameters without the object.
    pub parameters: u32,
    /// Parameters and locals between their first and their last mention, at the place where they are most.
    pub names_alive: u32,
}

/// Share of its lines under which a function does little but define others.
const FEW_OWN: u32 = 4;

impl Measures {
    /// What is in it is in the functions that it defines, which are measured by themselves.
    pub fn is_wrapper(&self) -> bool {
        self.own_lines * FEW_OWN < self.code_lines
    }
}

/// A function whose end the walk has not reached.
struct Open<'a> {
    end: NodeId,
    /// Its place among the results.
    at: usize,
    /// Structures around it.
    outside: usize,
    name: &'a str,
    recursive: bool,
}

pub(super) struct Measure<'a> {
    pub(super) tree: &'a Tree,
    pub(super) text: &'a str,
    pub(super) lang: &'a dyn Language,
}

impl<'a> Measure<'a> {
    /// The measures of functions, in the order of `functions`; their lines of code are not counted here.
    pub(super) fn of(&self, functions: &[NodeId]) -> Vec<Measures> {
        let t = self.tree;
        let mut out = vec![Measures { cyclomatic: 1, ..Measures::default() }; functions.len()];
        let mut open: Vec<Open> = Vec::new();
        // the ends of the structures around a node
        let mut levels: Vec<NodeId> = Vec::new();
        let mut next = functions.iter().copied().peekable();
        for id in t.ids() {
            while open.last().is_some_and(|f| id >= f.end) {
                open.pop();
            }
            while levels.last().is_some_and(|end| id >= *end) {
                levels.pop();
            }
            if next.peek() == Some(&id) {
                next.next();
                let at = functions.len() - next.len() - 1;
                let nested = !open.is_empty();
                out[at].parameters = self.parameters(id);
                out[at].names_alive = self.names_alive(id);
                let name = t.name_of_callable(id).map_or("", |n| t.text(n, self.text));
                open.push(Open {
                    end: t.end(id),
                    at,
                    outside: levels.len() + usize::from(nested),
                    name,
                    recursive: false,
                });
                if nested {
                    levels.push(t.end(id));
                }
                continue;
            }
            let Some(inner) = open.last() else { continue };
            out[inner.at].cyclomatic += u32::from(self.is_decision(id));
            let (own, deepens) = self.effort(id);
            if t.parent(id).is_some_and(|p| t.role(p) == Role::Block) && t.role(id) != Role::Doc {
                open.iter().for_each(|f| out[f.at].statements += 1);
            }
            for f in &mut open {
                let depth = (levels.len() - f.outside) as u32;
                let m = &mut out[f.at];
                m.cognitive += own + if deepens { depth } else { 0 };
                m.nesting = m.nesting.max(if deepens { depth + 1 } else { 0 });
                if !f.recursive && self.calls(id, f.name) {
                    f.recursive = true;
                    m.cognitive += 1;
                }
            }
            if deepens || t.role(id) == Role::Lambda {
                levels.push(t.end(id));
            }
        }
        out
    }

    /// What a reader has to keep in mind at once. Names are told apart by their words alone, those of functions inside too.
    fn names_alive(&self, function: NodeId) -> u32 {
        let t = self.tree;
        let mut mentions: FxHashMap<&str, (NodeId, NodeId, bool)> = FxHashMap::default();
        let own = t.child(function, Field::Name);
        for n in t.subtree(function).filter(|n| t.role(*n) == Role::Name && Some(*n) != own) {
            let seen = mentions.entry(t.text(n, self.text)).or_insert((n, n, false));
            seen.1 = n;
            seen.2 |= self.is_given(n);
        }
        let mut events: Vec<(NodeId, bool)> = Vec::new();
        for (first, last, _) in mentions.into_values().filter(|(.., given)| *given) {
            events.extend([(first, false), (last, true)]);
        }
        // one that begins where another ends is alive with it
        events.sort_unstable();
        let (mut now, mut most) = (0u32, 0);
        for (_, ends) in events {
            now = if ends { now - 1 } else { now + 1 };
            most = most.max(now);
        }
        most
    }

    /// A name that gets a value here: a parameter, or what an assignment or a loop writes.
    fn is_given(&self, name: NodeId) -> bool {
        let t = self.tree;
        let written = |p: NodeId| matches!(t.role(p), Role::Assign | Role::AugAssign | Role::For | Role::CompFor);
        let mut at = name;
        while let Some(p) = t.parent(at) {
            match t.role(p) {
                _ if t.field(at) == Field::Left && written(p) => return true,
                Role::Pattern | Role::Tuple | Role::List | Role::Spread | Role::Default => at = p,
                Role::Parameters => return true,
                Role::Parameter => return t.field(at) == Field::Name,
                Role::NamedExpr => return t.field(at) == Field::Name,
                _ => return false,
            }
        }
        false
    }

    /// A further way through the function.
    fn is_decision(&self, id: NodeId) -> bool {
        let t = self.tree;
        match t.role(id) {
            Role::If | Role::Elif | Role::Conditional | Role::Except | Role::BoolOp | Role::CompFor | Role::CompIf => {
                true
            }
            Role::Case => !self.is_default(id),
            role => role.is_loop(),
        }
    }

    /// What a node adds by itself, and whether it adds its depth and deepens what it holds.
    fn effort(&self, id: NodeId) -> (u32, bool) {
        let t = self.tree;
        let parent = t.parent(id).map_or(Role::Other, |p| t.role(p));
        match t.role(id) {
            // an `else if` counts once, and stands no deeper than its `if`
            Role::If if parent == Role::Else => (0, false),
            Role::If if self.is_else(id) => (1, false),
            Role::If | Role::Conditional | Role::Switch | Role::Match | Role::Except => (1, true),
            Role::Elif => (1, false),
            Role::Else => (u32::from(parent == Role::If), false),
            Role::Break | Role::Continue => (u32::from(t.children(id).next().is_some()), false),
            Role::BoolOp => (
                u32::from(parent != Role::BoolOp || self.operator(id) != t.parent(id).and_then(|p| self.operator(p))),
                false,
            ),
            role if role.is_loop() => (1, true),
            _ if self.is_else(id) => (1, false),
            _ => (0, false),
        }
    }

    /// The other branch, where the tree has no node for the word before it.
    fn is_else(&self, id: NodeId) -> bool {
        let t = self.tree;
        t.field(id) == Field::Alternative
            && t.parent(id).is_some_and(|p| t.role(p) == Role::If)
            && !matches!(t.role(id), Role::Else | Role::Elif)
    }

    fn operator(&self, id: NodeId) -> Option<&str> {
        let t = self.tree;
        t.children(id).find(|c| t.role(*c) == Role::Token).map(|c| t.text(c, self.text))
    }

    fn is_default(&self, case: NodeId) -> bool {
        let rest = self.tree.text(case, self.text).strip_prefix(self.lang.catch_all_case());
        rest.is_some_and(|r| r.trim_start().starts_with([':', '-']))
    }

    fn calls(&self, id: NodeId, name: &str) -> bool {
        let t = self.tree;
        if name.is_empty() || t.role(id) != Role::Call {
            return false;
        }
        let Some(callee) = t.child(id, Field::Callee) else { return false };
        let object = t.child(callee, Field::Object).map(|o| t.text(o, self.text));
        match t.role(callee) {
            Role::Name => t.text(callee, self.text) == name,
            Role::Member => {
                object.is_some_and(|o| self.is_object(o))
                    && t.child(callee, Field::Member).is_some_and(|m| t.text(m, self.text) == name)
            }
            _ => false,
        }
    }

    fn parameters(&self, function: NodeId) -> u32 {
        let t = self.tree;
        let Some(list) = t.child(function, Field::Parameters) else { return 0 };
        if t.role(list) != Role::Parameters {
            return 1;
        }
        let word = |p: NodeId| t.subtree(p).find(|n| t.is_leaf(*n)).map_or("", |n| t.text(n, self.text));
        let counts = |p: &NodeId| t.role(*p) != Role::Token && !self.is_object(word(*p));
        t.children(list).filter(counts).count() as u32
    }

    /// A word for the object of a method.
    fn is_object(&self, word: &str) -> bool {
        self.lang.is_receiver(word) || self.lang.object_word() == Some(word)
    }
}
