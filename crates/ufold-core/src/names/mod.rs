//! Scopes, bindings and references of one file.
//!
//! A language walks its tree once and reports scopes, bindings and uses to a [`Builder`]; resolution of the reads then
//! follows the scope chain. A use that reaches no binding is *free*: a built-in, a name from a wildcard import, or a
//! mistake. Fails where names are made at run time (`globals()["x"] = 1`): such names stay free.

mod habits;
mod source;
pub use source::{Source, Told};

use rustc_hash::FxHashMap;

use crate::tree::{NodeId, Tree};

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct ScopeId(pub u32);
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct BindingId(pub u32);

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ScopeKind {
    Module,
    Class,
    Function,
    /// A part of an expression with variables of its own, run at once where it stands.
    Comprehension,
    /// The same, but run later by whoever holds the value.
    Lazy,
    /// A block with variables of its own; it runs as a part of the function around it.
    Block,
}

impl ScopeKind {
    /// What it holds runs where it stands.
    pub fn runs_at_once(self) -> bool {
        matches!(self, ScopeKind::Comprehension | ScopeKind::Block)
    }
}

#[derive(Clone, Debug)]
pub struct Scope {
    pub kind: ScopeKind,
    pub node: NodeId,
    pub parent: Option<ScopeId>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum BindKind {
    Parameter,
    Variable,
    Function,
    Class,
    Import,
}

/// Names of different spaces do not hide each other. Languages with one space for all have only values.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Space {
    #[default]
    Values,
    Functions,
    Types,
}

const SPACES: [Space; 3] = [Space::Values, Space::Functions, Space::Types];

#[derive(Clone, Debug)]
pub struct Binding {
    pub name: String,
    pub space: Space,
    pub scope: ScopeId,
    /// Of its first occurrence.
    pub kind: BindKind,
    pub first: NodeId,
    /// Number of places that bind it.
    pub writes: u32,
    /// A use in another scope that is not run at once.
    pub captured: bool,
    /// Bound from an inner scope (`nonlocal`, `global`).
    pub rebound_inside: bool,
    /// A reference stands for it somewhere.
    pub is_shared: bool,
    /// Has a value from the start of its scope on.
    pub hoisted: bool,
    /// What an import binds.
    pub import: Option<ImportRef>,
    /// Its scope has it from this node on; above it, the name means what is outside.
    pub seen_from: Option<NodeId>,
}

/// One imported name.
#[derive(Clone, Debug, PartialEq, Eq, Hash, serde::Serialize, serde::Deserialize)]
pub struct ImportRef {
    /// Steps up for a relative import, 0 for an absolute one.
    pub level: u32,
    pub module: String,
    /// The member of the module; `None` when the module itself is bound.
    pub member: Option<String>,
    /// `*`
    pub wildcard: bool,
}

impl Binding {
    /// A name that all code of its file, and perhaps other files, can use.
    pub fn is_of_file(&self) -> bool {
        self.scope == Names::MODULE && self.seen_from.is_none()
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Use {
    Read,
    Write,
    /// Reads, then writes (`x += 1`).
    Update,
    Delete,
}

impl Use {
    pub fn reads(self) -> bool {
        matches!(self, Use::Read | Use::Update)
    }
    pub fn writes(self) -> bool {
        matches!(self, Use::Write | Use::Update)
    }
}

#[derive(Clone, Copy, Debug)]
pub struct Reference {
    pub node: NodeId,
    pub scope: ScopeId,
    pub usage: Use,
    /// `None`: free.
    pub target: Option<BindingId>,
    /// What it may be at its place, the first that is found.
    pub spaces: &'static [Space],
}

impl Reference {
    /// Only a type can stand here.
    pub fn is_type(&self) -> bool {
        self.spaces == [Space::Types]
    }
    /// A type can stand here, and a value too, as in what stands before a dot.
    pub fn may_be_type(&self) -> bool {
        self.spaces.contains(&Space::Types)
    }
}

#[derive(Clone, Debug, Default)]
pub struct Names {
    pub scopes: Vec<Scope>,
    pub bindings: Vec<Binding>,
    pub references: Vec<Reference>,
    pub wildcard: bool,
    by_node: FxHashMap<NodeId, u32>,
    by_scope_node: FxHashMap<NodeId, ScopeId>,
    /// References of each binding, in preorder, one binding's after another's.
    by_target: Vec<u32>,
    /// Where those of a binding begin; one more at the end.
    first_of: Vec<u32>,
    by_frame: FxHashMap<ScopeId, Vec<BindingId>>,
    declared: FxHashMap<(ScopeId, Space, String), BindingId>,
    /// Members of a class are seen in all of its code by their bare names.
    pub members_in_sight: bool,
}

impl Names {
    pub const MODULE: ScopeId = ScopeId(0);

    pub fn at(&self, node: NodeId) -> Option<&Reference> {
        self.by_node.get(&node).map(|i| &self.references[*i as usize])
    }
    pub fn binding(&self, id: BindingId) -> &Binding {
        &self.bindings[id.0 as usize]
    }
    pub fn scope(&self, id: ScopeId) -> &Scope {
        &self.scopes[id.0 as usize]
    }
    /// The scope that a node opens.
    pub fn scope_of(&self, node: NodeId) -> Option<ScopeId> {
        self.by_scope_node.get(&node).copied()
    }
    /// In whatever space, values first.
    pub fn declared_in(&self, scope: ScopeId, name: &str) -> Option<BindingId> {
        SPACES.into_iter().find_map(|s| self.declared_as(scope, s, name))
    }
    pub fn declared_as(&self, scope: ScopeId, space: Space, name: &str) -> Option<BindingId> {
        self.declared.get(&(scope, space, name.to_string())).copied()
    }
    /// A member of a class that its code names without an object.
    pub fn is_member(&self, id: BindingId) -> bool {
        self.members_in_sight && self.scope(self.binding(id).scope).kind == ScopeKind::Class
    }
    /// A word that the file's imports bind, unless a class around it has a member of the name.
    pub fn is_imported(&self, node: NodeId) -> bool {
        let target = self.at(node).and_then(|r| r.target).map(|b| self.binding(b));
        target.is_some_and(|b| b.scope == Self::MODULE && b.import.is_some())
    }
    pub fn in_module(&self, name: &str) -> Option<BindingId> {
        self.declared_in(Self::MODULE, name)
    }
    pub fn in_module_as(&self, space: Space, name: &str) -> Option<BindingId> {
        self.declared_as(Self::MODULE, space, name)
    }
    /// Code elsewhere may read and write the variable at any time.
    pub(crate) fn share(&mut self, id: BindingId) {
        let b = &mut self.bindings[id.0 as usize];
        (b.captured, b.rebound_inside, b.is_shared) = (true, true, true);
    }
    /// An import whose variable another file gives values.
    pub(crate) fn follows_another(&mut self, id: BindingId) {
        self.bindings[id.0 as usize].rebound_inside = true;
    }
    /// A use above the declaration that its file has for the name: it means what all files mean by it.
    pub fn is_above_declaration(&self, r: &Reference, name: &str) -> bool {
        let own = self.in_module(name).filter(|_| r.target.is_none());
        own.is_some_and(|b| self.binding(b).seen_from.is_some())
    }
    /// What a name means at a place, where blocks may declare one again: the last one that is in sight there.
    pub fn seen_at(&self, tree: &Tree, place: NodeId, name: &str) -> Option<BindingId> {
        let there = |b: &BindingId| {
            let own = self.binding(*b);
            let in_sight = own.seen_from.is_none_or(|from| from <= place);
            own.name == name && in_sight && tree.contains(self.scope(own.scope).node, place)
        };
        let all = (0..self.bindings.len() as u32).map(BindingId).filter(there);
        // a global is behind all locals, wherever it is defined
        all.max_by_key(|b| (!self.binding(*b).is_of_file(), self.binding(*b).first))
    }
    /// Which of those that one block declares by one name, from 0.
    pub fn turn(&self, id: BindingId) -> usize {
        let own = self.binding(id);
        let node = self.scope(own.scope).node;
        let same = |b: &&Binding| b.name == own.name && self.scope(b.scope).node == node;
        if own.seen_from.is_none() { 0 } else { self.bindings[..id.0 as usize].iter().filter(same).count() }
    }
    pub fn bindings_of(&self, scope: ScopeId) -> impl Iterator<Item = BindingId> + '_ {
        (0..self.bindings.len() as u32).map(BindingId).filter(move |b| self.binding(*b).scope == scope)
    }
    pub fn references_to(&self, id: BindingId) -> impl Iterator<Item = &Reference> {
        let range = self.first_of[id.0 as usize] as usize..self.first_of[id.0 as usize + 1] as usize;
        self.by_target[range].iter().map(|i| &self.references[*i as usize])
    }
    /// To be asked by binding and by frame.
    fn index(&mut self) {
        let mut all: Vec<u32> = (0..self.references.len() as u32).collect();
        all.retain(|i| self.references[*i as usize].target.is_some());
        all.sort_by_key(|i| self.references[*i as usize].target.map(|b| b.0));
        let of = |i: &u32| self.references[*i as usize].target.map_or(0, |b| b.0);
        self.first_of = (0..=self.bindings.len() as u32).map(|b| all.partition_point(|i| of(i) < b) as u32).collect();
        self.by_target = all;
        for b in (0..self.bindings.len() as u32).map(BindingId) {
            self.by_frame.entry(self.frame_of(b)).or_default().push(b);
        }
    }

    /// References in a preorder range, in that order.
    pub fn in_range(&self, from: NodeId, to: NodeId) -> &[Reference] {
        let a = self.references.partition_point(|r| r.node < from);
        let b = self.references.partition_point(|r| r.node < to);
        &self.references[a..b.max(a)]
    }
    /// The function, class or module whose code a scope is part of.
    pub fn frame(&self, scope: ScopeId) -> ScopeId {
        self.scope_chain(scope).find(|s| self.scope(*s).kind != ScopeKind::Block).unwrap_or(scope)
    }
    /// The function, class or module that a binding is a local of.
    pub fn frame_of(&self, id: BindingId) -> ScopeId {
        self.frame(self.binding(id).scope)
    }
    /// Bindings of a function, those of its blocks too.
    pub fn locals_of(&self, frame: ScopeId) -> impl Iterator<Item = BindingId> + '_ {
        self.by_frame.get(&frame).into_iter().flatten().copied()
    }
    /// The scope itself and those around it, innermost first.
    pub fn scope_chain(&self, scope: ScopeId) -> impl Iterator<Item = ScopeId> + '_ {
        std::iter::successors(Some(scope), |s| self.scope(*s).parent)
    }
    /// Whether `inner` is `outer` or lies in it.
    pub fn scope_within(&self, inner: ScopeId, outer: ScopeId) -> bool {
        self.scope_chain(inner).any(|s| s == outer)
    }
}

/// Collects what a language's walk reports.
pub struct Builder<'t> {
    tree: &'t Tree,
    names: Names,
    texts: Vec<String>,
    /// Imports of a package under the name that it has already: they give the name no other value.
    again: FxHashMap<BindingId, u32>,
    /// Names that a scope declares to live elsewhere: `true` in the module, `false` in an enclosing function.
    redirected: FxHashMap<(ScopeId, String), bool>,
    /// A type and a value of one scope and name are one binding.
    types_join_values: bool,
    locals_from_declaration: bool,
}

impl<'t> Builder<'t> {
    pub fn new(tree: &'t Tree) -> Self {
        let mut b = Self {
            tree,
            names: Names::default(),
            texts: Vec::new(),
            again: FxHashMap::default(),
            redirected: FxHashMap::default(),
            types_join_values: false,
            locals_from_declaration: false,
        };
        b.open(Tree::ROOT, ScopeKind::Module, None);
        b
    }

    pub fn open(&mut self, node: NodeId, kind: ScopeKind, parent: Option<ScopeId>) -> ScopeId {
        let id = ScopeId(self.names.scopes.len() as u32);
        self.names.scopes.push(Scope { kind, node, parent });
        self.names.by_scope_node.insert(node, id);
        id
    }

    pub fn names(&self) -> &Names {
        &self.names
    }
    pub fn tree(&self) -> &'t Tree {
        self.tree
    }

    /// The scope says that a name belongs to the module or to an enclosing function.
    pub fn redirect(&mut self, scope: ScopeId, name: &str, to_module: bool) {
        self.redirected.insert((scope, name.to_string()), to_module);
    }

    /// Members of classes are seen by their bare names, in their class and in all that stands in it.
    pub fn with_members_in_sight(mut self) -> Self {
        self.names.members_in_sight = true;
        self
    }

    /// A local is in sight from its declaration on; above it, in the same block, its name means what is outside.
    pub fn with_locals_from_declaration(mut self) -> Self {
        self.locals_from_declaration = true;
        self
    }

    /// A type and a value that one scope declares by one name are one binding, as whoever exports or renames one does so
    /// to both; still a value hides no type of a scope around it, nor a type a value.
    pub fn with_types_joining_values(mut self) -> Self {
        self.types_join_values = true;
        self
    }

    /// A name node is used in a scope.
    pub fn refer(&mut self, node: NodeId, name: &str, scope: ScopeId, usage: Use) {
        self.refer_to(node, name, scope, usage, &[Space::Values]);
    }

    /// The same of a name that may be of these spaces.
    pub fn refer_to(&mut self, node: NodeId, name: &str, scope: ScopeId, usage: Use, spaces: &'static [Space]) {
        self.names.references.push(Reference { node, scope, usage, target: None, spaces });
        self.texts.push(name.to_string());
    }

    /// A name node binds in one space of a scope.
    pub fn bind_as(&mut self, node: NodeId, name: &str, scope: ScopeId, kind: BindKind, space: Space) -> BindingId {
        let spaces: &[Space] = match space {
            Space::Values => &[Space::Values],
            Space::Functions => &[Space::Functions],
            Space::Types => &[Space::Types],
        };
        self.refer_to(node, name, scope, Use::Write, spaces);
        self.declare_here(node, name, scope, kind, None, space)
    }

    /// A name node binds in a scope; `kind` and `import` say what.
    pub fn bind(&mut self, node: NodeId, name: &str, scope: ScopeId, kind: BindKind, import: Option<ImportRef>) {
        let known = self.names.declared_in(scope, name).filter(|b| self.names.binding(*b).import == import);
        if let Some(b) = known.filter(|_| import.as_ref().is_some_and(|i| i.member.is_none() && !i.wildcard)) {
            *self.again.entry(b).or_default() += 1;
        }
        self.declare(node, name, scope, kind, import);
        self.refer(node, name, scope, Use::Write);
    }

    /// What has this value is a type too (a class, what an import brings).
    pub fn is_type_too(&mut self, scope: ScopeId, name: &str) {
        if let Some(b) = self.names.declared_as(scope, Space::Values, name) {
            self.names.declared.insert((scope, Space::Types, name.to_string()), b);
        }
    }

    /// What an import binds in a scope, by the space that fits best; `perhaps`: others in which it is found too.
    pub fn bind_import(
        &mut self,
        node: NodeId,
        name: &str,
        scope: ScopeId,
        space: Space,
        perhaps: &[Space],
        import: ImportRef,
    ) {
        let b = self.bind_as(node, name, scope, BindKind::Import, space);
        self.names.bindings[b.0 as usize].import = Some(import);
        for other in perhaps {
            self.names.declared.entry((scope, *other, name.to_string())).or_insert(b);
        }
    }

    /// The name belongs to the scope, unless the scope sent it elsewhere.
    pub fn declare(&mut self, node: NodeId, name: &str, scope: ScopeId, kind: BindKind, import: Option<ImportRef>) {
        if self.redirected.contains_key(&(scope, name.to_string())) {
            return;
        }
        self.declare_here(node, name, scope, kind, import, Space::Values);
    }

    fn declare_here(
        &mut self,
        node: NodeId,
        name: &str,
        scope: ScopeId,
        kind: BindKind,
        import: Option<ImportRef>,
        space: Space,
    ) -> BindingId {
        let key = (scope, space, name.to_string());
        if let Some(id) = self.names.declared.get(&key) {
            return *id;
        }
        // a parameter is not the type parameter of its name
        let joins = self.types_join_values && kind != BindKind::Parameter;
        if let Some(id) = self.names.declared_in(scope, name).filter(|_| joins) {
            let b = &mut self.names.bindings[id.0 as usize];
            if b.space != space && space == Space::Values {
                // the value is what has a time, the type is there from the beginning
                *b = Binding { space, kind, first: node, hoisted: false, import, ..b.clone() };
            }
            self.names.declared.insert(key, id);
            return id;
        }
        let id = BindingId(self.names.bindings.len() as u32);
        self.names.bindings.push(Binding {
            name: name.to_string(),
            space,
            scope,
            kind,
            first: node,
            writes: 0,
            captured: false,
            rebound_inside: false,
            is_shared: false,
            hoisted: false,
            import,
            seen_from: None,
        });
        self.names.declared.insert(key, id);
        id
    }

    /// A name that a scope has without any word that binds it.
    pub fn implicit(&mut self, owner: NodeId, name: &str, scope: ScopeId) {
        self.declare(owner, name, scope, BindKind::Parameter, None);
    }

    /// Others than the code that names it may read and write the variable at any time: a reference stands for it.
    pub fn share(&mut self, scope: ScopeId, name: &str) {
        if let Some(b) = self.names.declared_in(scope, name) {
            self.names.share(b);
        }
    }

    /// The name has a value from the start of its scope on.
    pub fn hoist(&mut self, scope: ScopeId, name: &str) {
        if let Some(b) = self.names.declared_in(scope, name) {
            self.names.bindings[b.0 as usize].hoisted = true;
        }
    }

    /// The same in one of its spaces; a type does not make a value of its name be there earlier.
    pub fn hoist_as(&mut self, scope: ScopeId, name: &str, space: Space) {
        let own = |b: &BindingId| self.names.binding(*b).space == space;
        if let Some(b) = self.names.declared_as(scope, space, name).filter(own) {
            self.names.bindings[b.0 as usize].hoisted = true;
        }
    }

    pub fn set_wildcard(&mut self) {
        self.names.wildcard = true;
    }

    /// Resolves all uses. Class scopes are seen only from directly inside them.
    pub fn finish(mut self) -> Names {
        let mut order: Vec<usize> = (0..self.names.references.len()).collect();
        order.sort_by_key(|i| self.names.references[*i].node);
        let refs: Vec<Reference> = order.iter().map(|i| self.names.references[*i]).collect();
        let texts: Vec<String> = order.iter().map(|i| std::mem::take(&mut self.texts[*i])).collect();
        self.names.references = refs;
        for (i, name) in texts.iter().enumerate() {
            let r = self.names.references[i];
            let mut target = r.spaces.iter().find_map(|space| self.resolve(&r, *space, name));
            let redirected = self.redirected.contains_key(&(r.scope, name.clone()));
            if target.is_none() && r.usage != Use::Read && redirected {
                // bound only through a declaration such as `global x`; what is assigned without any is nobody's here
                target = Some(self.declare_here(r.node, name, Names::MODULE, BindKind::Variable, None, Space::Values));
            }
            self.names.references[i].target = target;
            self.names.by_node.insert(r.node, i as u32);
            let Some(t) = target else { continue };
            let home = self.names.binding(t).scope;
            let inside = home != r.scope && !self.runs_at_once(r.scope, home);
            let b = &mut self.names.bindings[t.0 as usize];
            if r.is_type() && b.space == Space::Values {
                continue;
            }
            b.writes += u32::from(r.usage != Use::Read);
            b.captured |= inside;
            b.rebound_inside |= inside && r.usage != Use::Read;
        }
        for (b, again) in &self.again {
            self.names.bindings[b.0 as usize].writes -= again;
        }
        self.names.index();
        self.names
    }

    fn runs_at_once(&self, from: ScopeId, home: ScopeId) -> bool {
        self.names.scope_chain(from).take_while(|s| *s != home).all(|s| self.names.scope(s).kind.runs_at_once())
    }

    /// The name is in sight from a node on.
    pub fn seen_from(&mut self, scope: ScopeId, name: &str, from: NodeId) {
        if let Some(b) = self.names.declared_in(scope, name) {
            self.names.bindings[b.0 as usize].seen_from = Some(from);
        }
    }

    /// What a name means so far at the end of a scope.
    pub fn resolves(&self, scope: ScopeId, name: &str) -> Option<BindingId> {
        self.names.scope_chain(scope).find_map(|s| self.names.declared_in(s, name))
    }

    /// The rest of a block as a scope of its own, where a name is declared once more.
    pub fn open_again(&mut self, block: NodeId, parent: Option<ScopeId>) -> ScopeId {
        let id = ScopeId(self.names.scopes.len() as u32);
        self.names.scopes.push(Scope { kind: ScopeKind::Block, node: block, parent });
        self.names.by_scope_node.entry(block).or_insert(id);
        id
    }

    /// A local that is not there yet where its name is used.
    fn is_later(&self, b: BindingId, used: NodeId) -> bool {
        let binding = self.names.binding(b);
        if let Some(from) = binding.seen_from {
            return used < from && used != binding.first;
        }
        let local = binding.space == Space::Values
            && binding.kind == BindKind::Variable
            && matches!(self.names.scope(binding.scope).kind, ScopeKind::Function | ScopeKind::Block);
        self.locals_from_declaration && local && used < binding.first
    }

    fn resolve(&self, r: &Reference, space: Space, name: &str) -> Option<BindingId> {
        let mut first = true;
        for s in self.names.scope_chain(r.scope) {
            let kind = self.names.scope(s).kind;
            let visible = first || kind != ScopeKind::Class || self.names.members_in_sight;
            match self.redirected.get(&(s, name.to_string())) {
                Some(true) => return self.names.in_module(name),
                Some(false) => {}
                None if visible => {
                    if let Some(b) = self.names.declared_as(s, space, name).filter(|b| !self.is_later(*b, r.node)) {
                        return Some(b);
                    }
                }
                None => {}
            }
            first = false;
        }
        None
    }
}
