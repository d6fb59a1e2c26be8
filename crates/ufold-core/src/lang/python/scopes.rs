//! Python's scoping: function, class, comprehension and module scopes, `global` and `nonlocal`, parameters of all
//! kinds, the walrus, `except … as`, `with … as`, imports, match patterns, type parameters.
//!
//! Two passes over each scope's own nodes: declarations first, for a name is local to its whole function wherever it
//! is bound; uses then resolve in the builder.

use crate::names::{BindKind, Builder, ImportRef, Names, ScopeId, ScopeKind, Use};
use crate::tree::{Field, NodeId, Role, Tree};

pub fn names(tree: &Tree, text: &str) -> Names {
    let mut w = Walk { b: Builder::new(tree), tree, text };
    if !tree.is_empty() {
        for c in tree.children(Tree::ROOT) {
            w.visit(c, Names::MODULE);
        }
    }
    w.b.finish()
}

struct Walk<'a> {
    b: Builder<'a>,
    tree: &'a Tree,
    text: &'a str,
}

impl<'a> Walk<'a> {
    fn str(&self, id: NodeId) -> &'a str {
        self.tree.text(id, self.text)
    }

    fn children(&self, id: NodeId) -> Vec<NodeId> {
        self.tree.children(id).collect()
    }

    fn visit_all(&mut self, ids: impl IntoIterator<Item = NodeId>, scope: ScopeId) {
        for c in ids {
            self.visit(c, scope);
        }
    }

    fn bind(&mut self, node: NodeId, scope: ScopeId, kind: BindKind) {
        self.b.bind(node, self.str(node), scope, kind, None);
    }

    fn visit(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        match t.role(id) {
            Role::Name => self.b.refer(id, self.str(id), scope, Use::Read),
            Role::Function => self.function(id, scope),
            Role::Lambda => self.lambda(id, scope),
            Role::Class => self.class(id, scope),
            Role::Comprehension | Role::Generator => self.comprehension(id, scope),
            Role::Assign => self.assign(id, scope),
            Role::AugAssign => {
                let left = t.child(id, Field::Left);
                for c in self.children(id) {
                    if Some(c) == left { self.target(c, scope, Use::Update) } else { self.visit(c, scope) }
                }
            }
            Role::For => self.for_loop(id, scope),
            Role::NamedExpr => {
                let home = self.walrus_home(scope);
                for c in self.children(id) {
                    if t.field(c) == Field::Name {
                        self.b.declare(c, self.str(c), home, BindKind::Variable, None);
                        self.b.refer(c, self.str(c), home, Use::Write);
                    } else {
                        self.visit(c, scope);
                    }
                }
            }
            Role::AsPattern => self.as_pattern(id, scope),
            Role::Except => {
                for c in self.children(id) {
                    if t.field(c) == Field::Alias { self.target(c, scope, Use::Write) } else { self.visit(c, scope) }
                }
            }
            Role::Delete => {
                for c in self.children(id) {
                    self.target(c, scope, Use::Delete);
                }
            }
            Role::Global | Role::Nonlocal => {
                for c in self.children(id) {
                    self.b.redirect(scope, self.str(c), t.role(id) == Role::Global);
                }
            }
            Role::Import | Role::ImportFrom => self.import(id, scope),
            Role::Case => self.case(id, scope),
            Role::TypeAlias => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.visit_targets(c, scope) } else { self.visit(c, scope) }
                }
            }
            Role::Token | Role::MemberName | Role::KeywordName | Role::Error => {}
            _ => self.visit_all(self.children(id), scope),
        }
    }

    fn as_pattern(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        for c in self.children(id) {
            match t.role(c) {
                Role::AsTarget => self.visit_targets(c, scope),
                Role::Name if t.field(c) == Field::Alias || self.in_pattern(id) && self.is_last(id, c) => {
                    self.bind(c, scope, BindKind::Variable)
                }
                _ => self.visit(c, scope),
            }
        }
    }

    fn is_last(&self, parent: NodeId, child: NodeId) -> bool {
        self.tree.end(parent) == self.tree.end(child)
    }

    fn in_pattern(&self, id: NodeId) -> bool {
        self.tree
            .ancestors(id)
            .take_while(|a| !matches!(self.tree.role(*a), Role::Block | Role::ExprStmt))
            .any(|a| self.tree.role(a) == Role::Pattern)
    }

    fn walrus_home(&self, scope: ScopeId) -> ScopeId {
        let names = self.b.names();
        names
            .scope_chain(scope)
            .find(|s| !matches!(names.scope(*s).kind, ScopeKind::Comprehension | ScopeKind::Lazy))
            .unwrap_or(scope)
    }

    /// A `global` or `nonlocal` anywhere in a function holds for all of it, so it must be known before the uses.
    fn declarations_first(&mut self, body: NodeId, scope: ScopeId) {
        let t = self.tree;
        let mut at = body;
        let end = t.end(body);
        while at < end {
            let role = t.role(at);
            if matches!(role, Role::Function | Role::Class | Role::Lambda) {
                at = t.end(at);
                continue;
            }
            if matches!(role, Role::Global | Role::Nonlocal) {
                self.visit(at, scope);
            }
            at = NodeId(at.0 + 1);
        }
    }

    fn function(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let children = self.children(id);
        if let Some(name) = t.child(id, Field::Name) {
            self.bind(name, scope, BindKind::Function);
        }
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        for c in &children {
            match t.field(*c) {
                Field::Name => {}
                Field::Parameters => self.parameters(*c, scope, inner),
                Field::TypeParams => self.type_parameters(*c, inner),
                Field::ReturnType => self.visit(*c, scope),
                Field::Body => {
                    self.declarations_first(*c, inner);
                    self.visit_all(self.children(*c), inner);
                }
                _ => self.visit(*c, inner),
            }
        }
    }

    fn type_parameters(&mut self, id: NodeId, inner: ScopeId) {
        for n in self.tree.subtree(id).filter(|n| self.tree.role(*n) == Role::Name).collect::<Vec<_>>() {
            self.bind(n, inner, BindKind::Variable);
        }
    }

    fn lambda(&mut self, id: NodeId, scope: ScopeId) {
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        for c in self.children(id) {
            if self.tree.field(c) == Field::Parameters {
                self.parameters(c, scope, inner);
            } else {
                self.visit(c, inner);
            }
        }
    }

    /// Defaults and annotations are evaluated outside, the names are bound inside.
    fn parameters(&mut self, id: NodeId, outer: ScopeId, inner: ScopeId) {
        let t = self.tree;
        for p in self.children(id) {
            match t.role(p) {
                Role::Name => self.bind(p, inner, BindKind::Parameter),
                Role::Parameter => {
                    let named = t.child(p, Field::Name).or_else(|| t.children(p).next());
                    for c in self.children(p) {
                        if Some(c) == named {
                            for n in t.subtree(c).filter(|n| t.role(*n) == Role::Name).collect::<Vec<_>>() {
                                self.bind(n, inner, BindKind::Parameter);
                            }
                        } else {
                            self.visit(c, outer);
                        }
                    }
                }
                Role::Pattern => {
                    for n in t.subtree(p).filter(|n| t.role(*n) == Role::Name).collect::<Vec<_>>() {
                        self.bind(n, inner, BindKind::Parameter);
                    }
                }
                _ => {}
            }
        }
    }

    fn class(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        if let Some(name) = t.child(id, Field::Name) {
            self.bind(name, scope, BindKind::Class);
        }
        let inner = self.b.open(id, ScopeKind::Class, Some(scope));
        for c in self.children(id) {
            match t.field(c) {
                Field::Name => {}
                Field::Body => {
                    self.declarations_first(c, inner);
                    self.visit_all(self.children(c), inner);
                }
                Field::TypeParams => self.type_parameters(c, inner),
                _ => self.visit(c, scope),
            }
        }
    }

    /// The first source is evaluated outside, all else inside.
    fn comprehension(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let kind = if t.role(id) == Role::Generator && !self.consumed_at_once(id) {
            ScopeKind::Lazy
        } else {
            ScopeKind::Comprehension
        };
        let inner = self.b.open(id, kind, Some(scope));
        let mut outermost = true;
        for c in self.children(id) {
            if t.role(c) != Role::CompFor {
                continue;
            }
            for p in self.children(c) {
                match t.field(p) {
                    Field::Left => self.target(p, inner, Use::Write),
                    Field::Right if outermost => {
                        self.visit(p, scope);
                        outermost = false;
                    }
                    _ => self.visit(p, inner),
                }
            }
        }
        for c in self.children(id) {
            if t.role(c) != Role::CompFor {
                self.visit(c, inner);
            }
        }
    }

    /// `sum(x for x in y)`: the callee runs the generator before anything else can happen.
    fn consumed_at_once(&self, id: NodeId) -> bool {
        let t = self.tree;
        let call = match t.parent(id) {
            Some(p) if t.role(p) == Role::Call => p,
            Some(p) if t.role(p) == Role::Arguments => match t.parent(p) {
                Some(c) => c,
                None => return false,
            },
            _ => return false,
        };
        let Some(callee) = t.child(call, Field::Callee) else { return false };
        let name = self.str(callee).rsplit('.').next().unwrap_or("");
        super::library::CONSUMERS.contains(&name)
    }

    fn assign(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let bare = t.child(id, Field::Right).is_none();
        for c in self.children(id) {
            match t.field(c) {
                // `x: int` declares without binding
                Field::Left if bare => {
                    if t.role(c) == Role::Name {
                        self.b.declare(c, self.str(c), scope, BindKind::Variable, None);
                    } else {
                        self.visit(c, scope);
                    }
                }
                Field::Left => self.target(c, scope, Use::Write),
                _ => self.visit(c, scope),
            }
        }
    }

    fn for_loop(&mut self, id: NodeId, scope: ScopeId) {
        for c in self.children(id) {
            if self.tree.field(c) == Field::Left {
                self.target(c, scope, Use::Write);
            } else {
                self.visit(c, scope);
            }
        }
    }

    /// A target: names are bound (or deleted), what stands in members and subscripts is read.
    fn target(&mut self, id: NodeId, scope: ScopeId, usage: Use) {
        let t = self.tree;
        match t.role(id) {
            Role::Name => {
                self.b.declare(id, self.str(id), scope, BindKind::Variable, None);
                self.b.refer(id, self.str(id), scope, usage);
            }
            Role::Pattern | Role::Tuple | Role::List | Role::Paren | Role::Spread | Role::AsTarget => {
                for c in self.children(id) {
                    self.target(c, scope, usage);
                }
            }
            _ => self.visit(id, scope),
        }
    }

    fn visit_targets(&mut self, id: NodeId, scope: ScopeId) {
        for c in self.children(id) {
            self.target(c, scope, Use::Write);
        }
    }

    fn import(&mut self, id: NodeId, scope: ScopeId) {
        for (bound, import) in imports(self.tree, id, self.text) {
            match bound {
                Some(n) => self.b.bind(n, self.str(n), scope, BindKind::Import, Some(import)),
                None => self.b.set_wildcard(),
            }
        }
    }

    fn case(&mut self, id: NodeId, scope: ScopeId) {
        for c in self.children(id) {
            if self.tree.role(c) == Role::Pattern {
                self.pattern(c, scope);
            } else {
                self.visit(c, scope);
            }
        }
    }

    /// In a pattern a plain name binds; dotted names, class names and literals are read.
    fn pattern(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        for c in self.children(id) {
            match t.role(c) {
                Role::DottedName => {
                    let parts: Vec<NodeId> = t.subtree(c).filter(|n| t.role(*n) == Role::Name).collect();
                    let class = t.children(id).next() == Some(c) && self.is_class_pattern(id);
                    match parts.as_slice() {
                        [one] if !class && self.str(*one) != "_" => self.bind(*one, scope, BindKind::Variable),
                        [one, ..] => self.b.refer(*one, self.str(*one), scope, Use::Read),
                        [] => {}
                    }
                }
                Role::Member => self.visit(c, scope),
                Role::Name if self.is_keyword_of(id, c) => {}
                Role::Name => self.bind(c, scope, BindKind::Variable),
                Role::AsPattern => {
                    for p in self.children(c) {
                        match t.role(p) {
                            Role::Name | Role::AsTarget => {
                                let n = t.subtree(p).find(|n| t.role(*n) == Role::Name).unwrap_or(p);
                                self.bind(n, scope, BindKind::Variable);
                            }
                            Role::Pattern => self.pattern(p, scope),
                            _ => self.visit(p, scope),
                        }
                    }
                }
                Role::Literal | Role::Token | Role::Template | Role::Concat => {}
                _ => self.pattern(c, scope),
            }
        }
    }

    fn is_class_pattern(&self, id: NodeId) -> bool {
        self.str(id).ends_with(')') && !self.str(id).starts_with(['(', '['])
    }

    /// `Point(x=0)`: the `x` names a member.
    fn is_keyword_of(&self, pattern: NodeId, name: NodeId) -> bool {
        let after = &self.text[self.tree.span(name).end..self.tree.span(pattern).end];
        let after = after.trim_start();
        after.starts_with('=') && !after.starts_with("==")
    }
}

/// What an import statement names, each with the node that it binds (none for `*`).
pub fn imports(t: &Tree, id: NodeId, text: &str) -> Vec<(Option<NodeId>, ImportRef)> {
    let dotted = t.child(id, Field::Module).map_or("", |m| t.text(m, text));
    let bare = dotted.trim_start_matches('.');
    let level = (dotted.len() - bare.len()) as u32;
    let from = t.role(id) == Role::ImportFrom;
    let mut out = Vec::new();
    for c in t.children(id) {
        if t.role(c) == Role::Wildcard {
            out.push((None, ImportRef { level, module: bare.trim().to_string(), member: None, wildcard: true }));
            continue;
        }
        if t.field(c) != Field::Name {
            continue;
        }
        let aliased = t.role(c) == Role::ImportAlias;
        let (path, bound) = if aliased {
            (t.child(c, Field::Name), t.child(c, Field::Alias))
        } else {
            (Some(c), t.subtree(c).find(|n| t.role(*n) == Role::Name))
        };
        let (Some(path), Some(bound)) = (path, bound) else { continue };
        let path = t.text(path, text);
        let import = if from {
            let module = if dotted.is_empty() { "__future__" } else { bare.trim() };
            ImportRef { level, module: module.to_string(), member: Some(path.to_string()), wildcard: false }
        } else {
            // `import a.b` binds `a`, `import a.b as c` binds the whole
            let module = if aliased { path } else { path.split('.').next().unwrap_or(path) };
            ImportRef { level: 0, module: module.to_string(), member: None, wildcard: false }
        };
        out.push((Some(bound), import));
    }
    out
}

#[cfg(test)]
mod tests;
