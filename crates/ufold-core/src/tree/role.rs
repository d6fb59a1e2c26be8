//! The common language of all engines: what a node is, and what it is to its parent.

use rustc_hash::FxHashMap;

/// What a node is. A language's table maps each kind of its grammar to one of these.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Role {
    #[default]
    Other,
    Module,
    Block,
    // definitions
    Function,
    Lambda,
    Class,
    Decorated,
    Decorator,
    Parameters,
    Parameter,
    // statements
    ExprStmt,
    If,
    Elif,
    Else,
    For,
    /// A loop with its own start, condition and step.
    CountedFor,
    While,
    /// Tests after the first round.
    DoWhile,
    Try,
    Except,
    Finally,
    With,
    WithItem,
    Match,
    /// Cases that fall through into the next one.
    Switch,
    Case,
    Labeled,
    /// Goes on behind a [`Role::JumpTarget`] of its name, wherever that stands in the function.
    Jump,
    JumpTarget,
    Pattern,
    Return,
    Raise,
    Assert,
    Break,
    Continue,
    Pass,
    Delete,
    Global,
    Nonlocal,
    Import,
    ImportFrom,
    /// Declarations side by side under one keyword.
    Declare,
    Assign,
    AugAssign,
    /// Assigns only when the target's value asks for it.
    OrAssign,
    /// A target with a value for when it gets none.
    Default,
    /// A member that is no function.
    ClassField,
    TypeAlias,
    Doc,
    // expressions
    NamedExpr,
    Call,
    Arguments,
    KeywordArg,
    Member,
    Index,
    Slice,
    Name,
    MemberName,
    KeywordName,
    Literal,
    Template,
    TemplateText,
    Interpolation,
    Concat,
    Tuple,
    /// Values side by side that are no value together.
    Values,
    List,
    Dict,
    Set,
    Pair,
    Comprehension,
    Generator,
    CompFor,
    CompIf,
    Conditional,
    BoolOp,
    NotOp,
    UnaryOp,
    BinaryOp,
    Compare,
    Await,
    Yield,
    Spread,
    Paren,
    AsPattern,
    AsTarget,
    Type,
    TypeParams,
    DottedName,
    ImportPrefix,
    ImportAlias,
    ImportList,
    Wildcard,
    /// An operator or keyword that carries meaning.
    Token,
    /// Says that what it stands before waits.
    AsyncMark,
    /// Makes the rest of a path depend on whether its beginning has a value.
    OptionalMark,
    /// The name of a statement that a jump can leave.
    Label,
    /// A literal that is a new object each time it is evaluated.
    Fresh,
    /// Markup that is a value.
    Markup,
    MarkupTag,
    MarkupAttribute,
    /// Something that only means itself in its own function or file.
    FrameName,
    /// Makes names at run time.
    DynamicScope,
    Error,
}

impl Role {
    /// Opens a scope of its own that may run later or more than once.
    pub fn is_callable(self) -> bool {
        matches!(self, Role::Function | Role::Lambda)
    }
    pub fn is_definition(self) -> bool {
        matches!(self, Role::Function | Role::Class | Role::Decorated)
    }
    /// Gives what stands on its left a value, if only perhaps.
    pub fn assigns(self) -> bool {
        matches!(self, Role::Assign | Role::AugAssign | Role::OrAssign)
    }
    pub fn is_loop(self) -> bool {
        matches!(self, Role::For | Role::CountedFor | Role::While | Role::DoWhile)
    }
    /// Can stand where a value is read and be replaced there by a name.
    pub fn is_expression(self) -> bool {
        use Role::*;
        matches!(
            self,
            Lambda
                | Call
                | Member
                | Index
                | Name
                | Literal
                | Template
                | Concat
                | Tuple
                | List
                | Dict
                | Set
                | Comprehension
                | Generator
                | Conditional
                | BoolOp
                | NotOp
                | UnaryOp
                | BinaryOp
                | Compare
                | Await
                | Paren
                | Fresh
                | Markup
        )
    }
    /// A sequence of statements.
    pub fn is_sequence(self) -> bool {
        matches!(self, Role::Module | Role::Block)
    }
}

/// What a node is to its parent.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Field {
    #[default]
    None,
    Name,
    Body,
    Condition,
    Alternative,
    Left,
    Right,
    Value,
    Parameters,
    Arguments,
    Callee,
    Object,
    Member,
    Index,
    Operator,
    Type,
    ReturnType,
    Key,
    Alias,
    Definition,
    Subject,
    Guard,
    Cause,
    Module,
    Bases,
    TypeParams,
    Expression,
    Init,
    Step,
    Label,
    Handler,
    Source,
}

/// A grammar's kinds and fields by number, built once per language from its tables of names.
pub struct Grammar {
    pub language: tree_sitter::Language,
    roles: Vec<Option<Role>>,
    named: Vec<bool>,
    fields: FxHashMap<u16, Field>,
    shorthands: FxHashMap<u16, Shorthand>,
    paths: Option<Paths>,
    /// Kinds that are left out, their children being those of the node around them.
    transparent: Vec<bool>,
    /// The same of kinds that are so only in nodes of these roles.
    transparent_in: FxHashMap<u16, &'static [Role]>,
    /// Kinds of lists that are left out where one element is all they hold.
    lists: Vec<bool>,
    /// Kinds that are left out where they hold one node and no word.
    wrappers: Vec<u16>,
    /// A kind that ends the statement before it and is a part of it.
    terminator: Option<u16>,
    gathers: Option<Gathers>,
    counts_loops: bool,
}

/// A node that the grammar does not have, put around neighbours that belong together: the statements of a case, the
/// callee of a call.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Gathered {
    pub role: Role,
    pub field: Field,
    pub kind: u16,
    /// What each of the neighbours is to it; none to keep the field that it has.
    pub inside: Option<Field>,
    /// It takes one node, not all neighbours of its kind.
    pub alone: bool,
}

/// What a child of a node is gathered into.
pub type Gathers = fn(parent: Role, field: Field, child: &Standing) -> Option<Gathered>;

/// A node of the parser's tree, and where it stands: the node itself would have to be searched for from the root.
pub struct Standing<'t> {
    pub node: tree_sitter::Node<'t>,
    pub around: Option<tree_sitter::Node<'t>>,
    pub before: Option<tree_sitter::Node<'t>>,
}

impl Standing<'_> {
    pub fn is_in(&self, kind: &str) -> bool {
        self.around.is_some_and(|a| a.kind() == kind)
    }
    pub fn is_behind(&self, kind: &str) -> bool {
        self.before.is_some_and(|b| b.kind() == kind)
    }
}

impl Gathered {
    /// The block that holds a case's statements.
    pub const CASE_BLOCK: Gathered =
        Gathered { role: Role::Block, field: Field::Body, kind: u16::MAX - 1, inside: Some(Field::None), alone: false };
}

/// One word that stands for a key and a value: the kinds that the long form would have.
#[derive(Clone, Copy, Debug)]
pub struct Shorthand {
    pub pair: u16,
    pub key: u16,
    pub value: u16,
}

/// Words with dots between them that are members of members where they stand in such a node.
#[derive(Clone, Copy, Debug)]
struct Paths {
    kind: u16,
    around: Role,
    member: u16,
}

impl Grammar {
    /// `roles` maps kinds, `dropped` lists tokens that say nothing that the kinds of the nodes around them do not say.
    pub fn new(
        language: tree_sitter::Language,
        roles: &[(&str, Role)],
        fields: &[(&str, Field)],
        dropped: &[&str],
    ) -> Self {
        let n = language.node_kind_count();
        let mut table = vec![Some(Role::Other); n];
        let mut named = vec![false; n];
        for id in 0..n {
            let name = language.node_kind_for_id(id as u16).unwrap_or("");
            named[id] = language.node_kind_is_named(id as u16);
            table[id] = match roles.iter().find(|(k, _)| *k == name) {
                Some((_, role)) if named[id] => Some(*role),
                _ if named[id] => Some(Role::Other),
                _ if dropped.contains(&name) => None,
                _ if name == "async" || name == "await" => Some(Role::AsyncMark),
                _ => Some(Role::Token),
            };
        }
        let fields = fields.iter().filter_map(|(k, f)| Some((language.field_id_for_name(k)?.get(), *f))).collect();
        let (transparent, lists) = (vec![false; n], vec![false; n]);
        let (shorthands, paths, gathers) = (FxHashMap::default(), None, None);
        Self {
            language,
            roles: table,
            named,
            fields,
            shorthands,
            paths,
            transparent,
            transparent_in: FxHashMap::default(),
            lists,
            wrappers: Vec::new(),
            terminator: None,
            gathers,
            counts_loops: false,
        }
    }

    /// Kinds of leaves that are read as a pair of a key and a value with the same text.
    pub fn with_shorthands(mut self, list: &[(&str, [&str; 3])]) -> Self {
        let id = |name: &str| self.language.id_for_node_kind(name, true);
        self.shorthands = list
            .iter()
            .map(|(kind, [pair, key, value])| (id(kind), Shorthand { pair: id(pair), key: id(key), value: id(value) }))
            .collect();
        self
    }

    /// A kind of flat paths that are read as members, of the kind `member`, in nodes of a role.
    pub fn with_paths(mut self, kind: &str, around: Role, member: &str) -> Self {
        let id = |name: &str| self.language.id_for_node_kind(name, true);
        self.paths = Some(Paths { kind: id(kind), around, member: id(member) });
        self
    }

    /// The kind of the members that a flat path stands for.
    pub fn path(&self, kind: u16, around: Role) -> Option<u16> {
        self.paths.filter(|p| p.kind == kind && p.around == around).map(|p| p.member)
    }

    /// Nodes that the tree puts around neighbours.
    pub fn gathering(mut self, gathers: Gathers) -> Self {
        self.gathers = Some(gathers);
        self
    }

    /// Kinds whose children become those of the node around them.
    pub fn with_transparent(mut self, kinds: &[&str]) -> Self {
        for kind in kinds {
            self.transparent[self.language.id_for_node_kind(kind, true) as usize] = true;
        }
        self
    }

    /// A kind whose children become those of the node around it where that has one of these roles.
    pub fn with_transparent_in(mut self, kind: &str, roles: &'static [Role]) -> Self {
        self.transparent_in.insert(self.language.id_for_node_kind(kind, true), roles);
        self
    }

    pub fn is_transparent(&self, kind: u16, around: Role) -> bool {
        self.transparent.get(kind as usize).copied().unwrap_or(false)
            || self.transparent_in.get(&kind).is_some_and(|roles| roles.contains(&around))
    }

    /// Kinds of lists that say nothing where they hold one element.
    pub fn with_lists(mut self, kinds: &[&str]) -> Self {
        for kind in kinds {
            self.lists[self.language.id_for_node_kind(kind, true) as usize] = true;
        }
        self
    }

    /// Kinds of nodes that say nothing where they hold one node and no word beside it.
    pub fn with_wrappers(mut self, kinds: &[&str]) -> Self {
        self.wrappers = kinds.iter().map(|k| self.language.id_for_node_kind(k, true)).collect();
        self
    }

    /// A kind of statement that only ends the one before it.
    pub fn with_terminator(mut self, kind: &str) -> Self {
        self.terminator = Some(self.language.id_for_node_kind(kind, true));
        self
    }

    /// Jumps may say how many loops they leave, and a `switch` counts as one.
    pub fn counting_loops(mut self) -> Self {
        self.counts_loops = true;
        self
    }

    pub fn counts_loops(&self) -> bool {
        self.counts_loops
    }

    pub fn is_terminator(&self, kind: u16) -> bool {
        self.terminator == Some(kind)
    }

    /// A list of one; marks that stand with an element are none.
    pub fn is_list_of_one(&self, node: &tree_sitter::Node) -> bool {
        if !self.wrappers.is_empty() && self.wrappers.contains(&node.kind_id()) {
            return node.child_count() == 1;
        }
        let is_list = self.lists.get(node.kind_id() as usize).copied().unwrap_or(false);
        let element =
            |n: &tree_sitter::Node| n.is_named() && !n.is_extra() && self.role(n.kind_id()) != Some(Role::Token);
        let mut cursor = node.walk();
        is_list && node.children(&mut cursor).filter(element).count() == 1
    }

    pub fn gathered(&self, parent: Role, field: Field, child: &Standing) -> Option<Gathered> {
        self.gathers.filter(|_| !child.node.is_extra())?(parent, field, child)
    }

    pub fn has_shorthands(&self) -> bool {
        !self.shorthands.is_empty()
    }

    pub fn shorthand(&self, kind: u16) -> Option<Shorthand> {
        if self.shorthands.is_empty() { None } else { self.shorthands.get(&kind).copied() }
    }

    /// `None`: the token is dropped.
    pub fn role(&self, kind: u16) -> Option<Role> {
        self.roles.get(kind as usize).copied().unwrap_or(Some(Role::Error))
    }
    pub fn is_named(&self, kind: u16) -> bool {
        self.named.get(kind as usize).copied().unwrap_or(true)
    }
    pub fn field(&self, id: Option<std::num::NonZeroU16>) -> Field {
        id.and_then(|f| self.fields.get(&f.get()).copied()).unwrap_or_default()
    }
}
