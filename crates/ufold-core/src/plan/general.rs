//! The general form of copies: what they have in common, where they differ, and what is written for that.

use rustc_hash::FxHashMap;

use crate::change::Reason;
use crate::lang::values::Derivation;
use crate::lang::{Bundle, FunctionType};
use crate::names::BindingId;
use crate::plan::region::Portion;
use crate::tree::{NodeId, Role, Tree};

/// What the copies have in common and where they differ.
pub struct General {
    pub parameters: Vec<Parameter>,
    /// Locals handed over, of each site, in order of the first write.
    pub results: Vec<Vec<BindingId>>,
    pub assumptions: Vec<Reason>,
    /// The receiver is used as such.
    pub uses_receiver: bool,
    /// Type parameters of the template's own that the code names.
    pub generics: Vec<BindingId>,
    pub type_holes: Vec<TypeHole>,
    /// For a statement that some copies lack.
    pub optional: Option<Optional>,
    /// Parameters that become the locals of the first statements, which go.
    pub given: Vec<usize>,
}

/// A parameter before it has a name.
pub struct Parameter {
    /// Aligned places that it stands for, in order.
    pub places: Vec<usize>,
    /// Text of the argument at each site.
    pub arguments: Vec<String>,
    /// Of each site: the local that is handed in to be written.
    pub variable: Option<Vec<BindingId>>,
    /// The arguments are functions that the body calls.
    pub callable: Option<Called>,
    /// Aligned places whose value is computed from it.
    pub derived: Vec<(usize, Derivation)>,
}

impl Parameter {
    pub fn new(place: usize, arguments: Vec<String>) -> Parameter {
        Parameter { places: vec![place], arguments, variable: None, callable: None, derived: Vec::new() }
    }
}

/// How the body calls a parameter that is a function.
pub struct Called {
    pub forms: Vec<String>,
    /// Of each place: what it passes.
    pub passed: Vec<Vec<String>>,
}

/// The last parameter of a function that runs a statement for some of its sites only.
#[derive(Clone)]
pub struct Optional {
    /// The statement in the copy that became the body.
    pub statement: NodeId,
    /// Text of the argument at each site; none where the parameter is left out.
    pub arguments: Vec<Option<String>>,
    /// What the body passes to the function.
    pub passed: Vec<String>,
    /// The parameter says whether to run the statement, which stays in the body.
    pub is_flag: bool,
}

/// Types that differ from copy to copy.
pub struct TypeHole {
    /// Aligned places.
    pub places: Vec<usize>,
    /// What each site has there.
    pub types: Vec<String>,
    /// Name of the type parameter.
    pub name: String,
}

/// What is learnt about names while the copies are walked.
pub struct NamesSeen {
    /// Of each site: locals of the first copy to its own, and back.
    pub forth: Vec<FxHashMap<BindingId, BindingId>>,
    pub back: Vec<FxHashMap<BindingId, BindingId>>,
    /// Locals that the copies write, of each site, with their places.
    pub(super) variables: Vec<(Vec<BindingId>, Vec<usize>)>,
    pub(super) uses_receiver: bool,
    pub(super) generics: Vec<BindingId>,
}

impl NamesSeen {
    pub(super) fn new(sites: usize) -> NamesSeen {
        let maps = vec![FxHashMap::default(); sites];
        NamesSeen { forth: maps.clone(), back: maps, variables: Vec::new(), uses_receiver: false, generics: Vec::new() }
    }
}

/// Why a group has no general form: the reason and, where it is one copy's fault, which.
pub struct Misfit {
    pub reason: Reason,
    pub site: Option<usize>,
}

/// What is written: a type for each parameter, and the type parameters.
#[derive(Default)]
pub struct Signature {
    pub parameters: Vec<String>,
    pub generics: Vec<String>,
    /// Of the parameter for a statement that some copies lack.
    pub optional: Option<String>,
    /// Of the result, where it must be written.
    pub result: Option<String>,
    /// The type that is made for several results.
    pub bundle: Option<Bundle>,
    /// Types of functions that are made, each with the number of its parameter.
    pub functions: Vec<(usize, FunctionType)>,
    /// Exceptions that must be declared.
    pub throws: Vec<String>,
    /// What declares the template's locals that the body must declare.
    pub locals: Vec<(BindingId, String)>,
    pub assumptions: Vec<Reason>,
}

impl Signature {
    pub fn local(&self, b: BindingId) -> Option<&str> {
        self.locals.iter().find(|(l, _)| *l == b).map(|(_, w)| w.as_str())
    }
}

/// A call that is a statement.
pub fn is_for_effect(t: &Tree, node: NodeId) -> bool {
    t.parent(node).is_some_and(|p| t.role(p) == Role::ExprStmt)
}

/// A local that the body writes, and whose declaration stays outside.
pub fn must_declare(site: &Portion, index: usize, general: &General, b: BindingId) -> bool {
    use crate::names::BindKind::{Class, Function};
    let given = |p: &Parameter| p.variable.as_ref().is_some_and(|v| v[index] == b);
    !site.inner(b)
        && !site.declarations(b).iter().any(|d| d.1)
        && !general.parameters.iter().any(given)
        && !matches!(site.source().names.binding(b).kind, Function | Class)
}
