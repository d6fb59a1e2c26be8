//! What a person wishes of a new function: its place and form, its name, and its parameters' names and order.

use std::collections::BTreeMap;

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use crate::change::Place;
use crate::names::{Names, Source};
use crate::plan::general::General;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// What a person may ask of a new function; what is absent is derived.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Wishes {
    pub name: Option<String>,
    /// Names of the parameters, in order.
    pub parameters: Option<Vec<String>>,
    /// File that takes the function.
    pub into: Option<String>,
    /// Class of that file that takes it, in languages whose functions are members.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub class: Option<String>,
    /// Types of parameters by name, where the language wants them written and they can't be found.
    pub types: BTreeMap<String, String>,
    /// Doc comment; taken from the copies' comment when absent.
    pub doc: Option<String>,
    pub form: Option<Form>,
    /// What several results become where a function gives one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub results: Option<Results>,
    /// A flag for a statement that some copies lack, rather than a function.
    pub flags: bool,
    /// Parameters that follow from others are computed from them.
    pub derive: bool,
    /// Most parameters, the receiver not counted.
    pub most_parameters: usize,
}

impl Default for Wishes {
    fn default() -> Wishes {
        Wishes {
            name: None,
            parameters: None,
            into: None,
            class: None,
            types: BTreeMap::new(),
            doc: None,
            form: None,
            results: None,
            flags: false,
            derive: false,
            most_parameters: most_parameters(),
        }
    }
}

/// Where a new function stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Form {
    /// At the top level of its file.
    Function,
    /// In the class of its sites.
    Method,
    /// In the function around its sites.
    Nested,
}

pub fn most_parameters() -> usize {
    7
}

/// How several results are handed over where a function gives one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Results {
    /// In a type of their own that does nothing else.
    Record,
}

/// Copies that are to become calls of one function.
#[derive(Clone, Copy)]
pub struct Asked<'a> {
    pub copies: &'a [Place],
    /// Numbers of copies to leave out, from 1.
    pub except: &'a [usize],
    pub wishes: &'a Wishes,
}

/// Whether a new function's name would mean something, or hide something, where a site and its module see it. Locals of
/// functions that do not call it, and texts, are in nobody's way.
pub fn is_taken(sites: &[Portion], name: &str, member: bool) -> bool {
    let mut words: FxHashMap<&str, Vec<NodeId>> = FxHashMap::default();
    sites.iter().any(|site| {
        let (s, t) = (site.source(), &site.source().tree);
        let is_word = |n: &NodeId| t.is_leaf(*n) && s.str(*n) == name;
        let own = words.entry(&s.path).or_insert_with(|| t.ids().filter(is_word).collect());
        own.iter().any(|n| is_in_the_way(site, *n, member))
    })
}

/// Whether a word at a node would mean something else, or be meant by something else, at a site.
fn is_in_the_way(site: &Portion, n: NodeId, member: bool) -> bool {
    let (s, t) = (site.source(), &site.source().tree);
    match t.role(n) {
        Role::Name => {
            let Some(r) = s.names.at(n) else { return true };
            let Some(b) = r.target else { return true };
            let home = s.names.scope(s.names.binding(b).scope).node;
            // a local of a function that holds no copy
            s.names.binding(b).scope == Names::MODULE
                || t.contains(home, site.function)
                || t.contains(site.function, home)
        }
        Role::MemberName => {
            member || s.lang.is_exports(s, t.parent(n).and_then(|p| t.child(p, Field::Object)).map_or("", |o| s.str(o)))
        }
        _ => false,
    }
}

/// The order that given names ask for, as places in the derived one; none when they only rename. A name that the
/// function has is that parameter, wherever it stands; one new name among them is the one that is left.
pub fn wished_order(given: &[String], derived: &[String], parameters: usize) -> Result<Option<Vec<usize>>, String> {
    let place = |g: &String| derived.iter().position(|d| d == g);
    let moved = given.iter().enumerate().any(|(i, g)| place(g).is_some_and(|p| p != i));
    if !moved || given.len() != derived.len() {
        return Ok(None);
    }
    let mut left: Vec<usize> = (0..derived.len()).filter(|i| !given.contains(&derived[*i])).collect();
    if left.len() > 1 {
        let names: Vec<&str> = left.iter().map(|i| derived[*i].as_str()).collect();
        return Err(format!(
            "which of the new names is for {} can't be told; move or rename in two steps",
            names.join(", ")
        ));
    }
    let order: Vec<usize> = given.iter().filter_map(|g| place(g).or_else(|| left.pop())).collect();
    match order.get(parameters..).is_some_and(|rest| rest.iter().enumerate().all(|(i, p)| *p == parameters + i)) {
        true => Ok(Some(order[..parameters].to_vec())),
        false => Err("the parameter that calls may leave out stays the last one".into()),
    }
}

pub fn check_given(given: &[String], derived: &[String], general: &General, source: &Source) -> Result<(), String> {
    if given.len() != derived.len() {
        return Err(format!("the function has {} parameters, the request names {}", derived.len(), given.len()));
    }
    for (i, g) in given.iter().enumerate() {
        if !source.lang.is_identifier(g) || given[..i].contains(g) {
            return Err(format!("`{g}` is no name for a parameter, or is given twice"));
        }
        if general.parameters.get(i).is_some_and(|p| p.variable.is_some()) && *g != derived[i] {
            return Err(format!("`{}` is written by the code and keeps its name", derived[i]));
        }
    }
    Ok(())
}
