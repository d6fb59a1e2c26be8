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
    While,
    Try,
    Except,
    Finally,
    With,
    WithItem,
    Match,
    Case,
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
    Assign,
    AugAssign,
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
    Wildcard,
    /// An operator or keyword that carries meaning.
    Token,
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
    pub fn is_loop(self) -> bool {
        matches!(self, Role::For | Role::While)
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
}

/// A grammar's kinds and fields by number, built once per language from its tables of names.
pub struct Grammar {
    pub language: tree_sitter::Language,
    roles: Vec<Option<Role>>,
    named: Vec<bool>,
    fields: FxHashMap<u16, Field>,
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
                _ => Some(Role::Token),
            };
        }
        let fields = fields.iter().filter_map(|(k, f)| Some((language.field_id_for_name(k)?.get(), *f))).collect();
        Self { language, roles: table, named, fields }
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
