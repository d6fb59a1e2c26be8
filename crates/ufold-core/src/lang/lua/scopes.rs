//! Lua's scoping: a local is in sight from the end of its declaration to the end of its block, in the functions there too;
//! what no local is called is a global, the same one in all files.
//!
//! A second `local` of a name is another variable: the rest of the block is a scope of its own, so that what captured the
//! first one keeps it. Global functions are names of their file; other globals are free. Fails where `_ENV` or `setfenv`
//! say what the globals are: such files are left alone ([`super::Lua`]'s `read_otherwise`).

use crate::names::{BindKind, Builder, ImportRef, Names, ScopeId, ScopeKind, Use};
use crate::tree::{Field, NodeId, Role, Tree};

pub fn names(tree: &Tree, text: &str) -> Names {
    let mut w = Walk { b: Builder::new(tree), tree, text };
    if !tree.is_empty() {
        w.statements(Tree::ROOT, Names::MODULE);
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

    /// The statements of a block; gives the scope in which what follows the last of them stands.
    fn statements(&mut self, block: NodeId, mut scope: ScopeId) -> ScopeId {
        let t = self.tree;
        for s in self.children(block) {
            match t.role(s) {
                Role::Declare => scope = self.declare(s, block, scope),
                Role::Function => scope = self.function(s, block, scope),
                _ => self.visit(s, scope),
            }
        }
        scope
    }

    fn visit(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        match t.role(id) {
            Role::Name => self.b.refer(id, self.str(id), scope, Use::Read),
            Role::Block => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                self.statements(id, inner);
            }
            Role::Lambda | Role::Function => self.callable(id, scope),
            Role::For => self.for_loop(id, scope),
            Role::DoWhile => self.repeat(id, scope),
            Role::Assign => self.assign(id, scope),
            Role::Token | Role::MemberName | Role::KeywordName | Role::Label | Role::Error | Role::Doc => {}
            _ => self.visit_all(self.children(id), scope),
        }
    }

    /// The values are evaluated before anything gets one.
    fn assign(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        for c in self.children(id) {
            match (t.field(c), t.role(c)) {
                (Field::Left, Role::Name) => self.b.refer(c, self.str(c), scope, Use::Write),
                (Field::Left, Role::Pattern) => {
                    for target in self.children(c) {
                        match t.role(target) {
                            Role::Name => self.b.refer(target, self.str(target), scope, Use::Write),
                            _ => self.visit(target, scope),
                        }
                    }
                }
                _ => self.visit(c, scope),
            }
        }
    }

    /// `local a, b = …`
    fn declare(&mut self, id: NodeId, block: NodeId, scope: ScopeId) -> ScopeId {
        let t = self.tree;
        let Some(assign) = t.child_of_role(id, Role::Assign) else { return scope };
        let left = t.child(assign, Field::Left);
        let right = t.child(assign, Field::Right);
        self.visit_all(right, scope);
        let targets = left.map_or(Vec::new(), |l| if t.role(l) == Role::Name { vec![l] } else { self.children(l) });
        let names: Vec<NodeId> = targets.into_iter().filter(|n| t.role(*n) == Role::Name).collect();
        let import = right.and_then(|r| required(t, r, self.text)).filter(|_| names.len() == 1);
        let kind = if import.is_some() { BindKind::Import } else { BindKind::Variable };
        self.in_sight(&names, block, scope, kind, import, t.end(id))
    }

    /// Names that a block has from a node on.
    fn in_sight(
        &mut self,
        names: &[NodeId],
        block: NodeId,
        mut scope: ScopeId,
        kind: BindKind,
        import: Option<ImportRef>,
        from: NodeId,
    ) -> ScopeId {
        for n in names {
            if self.b.names().declared_in(scope, self.str(*n)).is_some() {
                scope = self.b.open_again(block, Some(scope));
            }
            self.b.bind(*n, self.str(*n), scope, kind, import.clone());
            self.b.seen_from(scope, self.str(*n), from);
        }
        scope
    }

    /// `function f()` is a global, `local function f()` a local that the function itself sees.
    fn function(&mut self, id: NodeId, block: NodeId, mut scope: ScopeId) -> ScopeId {
        let t = self.tree;
        if let Some(n) = t.child(id, Field::Name) {
            if super::is_local(t, id, self.text) {
                scope = self.in_sight(&[n], block, scope, BindKind::Function, None, n);
            } else if self.b.resolves(scope, self.str(n)).is_some() {
                self.b.refer(n, self.str(n), scope, Use::Write);
            } else {
                self.b.bind(n, self.str(n), Names::MODULE, BindKind::Function, None);
            }
        }
        self.callable(id, scope);
        scope
    }

    fn callable(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        if super::is_method(t, id, self.text) {
            self.b.implicit(id, "self", inner);
        }
        for c in self.children(id) {
            match t.field(c) {
                Field::Name => {}
                Field::Parameters => {
                    for p in self.children(c).into_iter().filter(|p| t.role(*p) == Role::Name) {
                        self.b.bind(p, self.str(p), inner, BindKind::Parameter, None);
                    }
                }
                Field::Body => {
                    self.statements(c, inner);
                }
                _ => self.visit(c, inner),
            }
        }
    }

    fn for_loop(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        self.visit_all(t.child(id, Field::Right), scope);
        let inner = self.b.open(id, ScopeKind::Block, Some(scope));
        if let Some(left) = t.child(id, Field::Left) {
            let names = if t.role(left) == Role::Name { vec![left] } else { self.children(left) };
            for n in names {
                self.b.bind(n, self.str(n), inner, BindKind::Variable, None);
            }
        }
        self.visit_all(t.child(id, Field::Body), inner);
    }

    /// What comes behind `until` sees the locals of the body.
    fn repeat(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let mut inner = scope;
        if let Some(body) = t.child(id, Field::Body) {
            inner = self.b.open(body, ScopeKind::Block, Some(scope));
            inner = self.statements(body, inner);
        }
        self.visit_all(t.child(id, Field::Condition), inner);
    }
}

/// What `require("m")`, or `require("m").f`, names.
pub fn required(t: &Tree, value: NodeId, text: &str) -> Option<ImportRef> {
    let member = t.child(value, Field::Member).filter(|_| t.role(value) == Role::Member);
    let call = match member {
        Some(_) => t.child(value, Field::Object)?,
        None => value,
    };
    let callee = t.child(call, Field::Callee).filter(|_| t.role(call) == Role::Call)?;
    let argument = t.child(call, Field::Arguments).and_then(|a| t.children(a).next())?;
    let plain = t.text(callee, text) == "require" && t.role(argument) == Role::Literal;
    plain.then(|| ImportRef {
        level: 0,
        module: t.text(argument, text).trim_matches(['"', '\'', '[', ']']).to_string(),
        member: member.map(|m| t.text(m, text).to_string()),
        wildcard: false,
    })
}
