//! Types of the new function's parameters, where the language wants them written.
//!
//! A parameter's type is what all sites' values have in common, or the union of them. Words of a type must mean the
//! same at the new place; type parameters of the functions around the sites become the new function's own.

use crate::align::Aligned;
use crate::change::{Code, Reason, reason};
use crate::index::Project;
use crate::index::declared::{is_type_parameter, type_parameter};
use crate::lang::{FunctionType, Joined, Reach};
use crate::names::{BindKind, BindingId, Names, Source, Space};
use crate::plan::general::{General, Optional, Parameter, Signature, TypeHole, is_for_effect};
use crate::plan::home::Home;
use crate::plan::literal_types::{Asked, is_own_type_used, is_widened, own_type};
use crate::plan::narrow_types::forgotten_inside;
use crate::plan::region::Portion;
use crate::plan::type_holes::in_terms_of;
use crate::plan::wishes::{Wishes, is_taken};
use crate::plan::words::words;
use crate::tree::{Field, NodeId, Role};
use crate::types::{Kind, Ty};

/// A union of more named types is no type that a person would write.
const MOST_TYPES: usize = 3;

pub struct Types<'a> {
    pub project: &'a Project<'a>,
    pub sites: &'a [Portion<'a>],
    pub aligned: &'a [Aligned],
    pub home: &'a Home,
    pub wishes: &'a Wishes,
    /// The function's name.
    pub name: &'a str,
}

/// A type without the paths that begin with a name space of the language's own, which are the same everywhere.
fn without_known_paths(s: &Source, text: &str) -> String {
    let mut parts: Vec<&str> =
        text.split_inclusive(|c: char| !c.is_alphanumeric() && !['_', '$', '.'].contains(&c)).collect();
    let known = |p: &&str| {
        p.split_once('.').is_some_and(|(head, _)| s.name_spaces().is_some() && s.lang.is_standard_module(head))
    };
    parts.retain(|p| !known(p));
    parts.concat()
}

impl Types<'_> {
    /// The type parameter with its bound.
    pub(super) fn bound(&self, hole: &TypeHole, assumptions: &mut Vec<Reason>) -> Result<String, Reason> {
        let node = |i: usize| self.aligned[hole.places[0]].nodes[i];
        let site = |i: usize| self.sites[i].source();
        let mut all: Vec<&str> = Vec::new();
        for (i, text) in hole.types.iter().enumerate() {
            let site = &self.sites[i];
            let known = self.words_visible(i, text, &mut Vec::new()).is_some();
            if !known {
                let message = format!("`{text}` is not known where the new function stands");
                return Err(reason(site.source(), node(i), Code::UnknownType, message));
            }
            if !all.contains(&text.as_str()) {
                all.push(text);
            }
        }
        let template = self.home.template;
        if all.len() > MOST_TYPES {
            let message = format!("the copies have {} types here", all.len());
            return Err(reason(self.sites[template].source(), node(template), Code::UnknownType, message));
        }
        let said = site(template).lang.write_type_parameter(&hole.name, &all);
        let said = said.ok_or_else(|| {
            reason(site(template), node(template), Code::UnknownType, "no type parameter can stand for these types")
        })?;
        let message = format!("the code is right for any `{}` that is one of {}", hole.name, all.join(", "));
        assumptions.push(reason(self.sites[template].source(), node(template), Code::UnitedTypes, message));
        Ok(said)
    }

    /// Nothing in a place of the parameter but a value of its type.
    pub(super) fn just_a_value(&self, p: &Parameter) -> Result<(), Reason> {
        let places = p.places.iter().flat_map(|i| self.aligned[*i].nodes.iter().zip(self.sites));
        for (node, site) in places {
            let s = site.source();
            if s.lang.asks_more_than_type(s, *node, &self.definitions()) {
                let message = format!("the compiler looks at `{}` itself here, not only at its type", s.str(*node));
                return Err(reason(s, *node, Code::HoleNoValue, message));
            }
            if let Some(told) = p.callable.as_ref().and_then(|_| forgotten_inside(self.project, site, *node)) {
                let message =
                    format!("a function would not know what a condition before it tells of `{}`", s.str(told));
                return Err(reason(s, told, Code::ToldBefore, message));
            }
        }
        Ok(())
    }

    /// What becomes a function may throw, of what must be declared.
    pub(super) fn thrown(&self, p: &Parameter) -> Result<Vec<String>, Reason> {
        let places = p.places.iter().flat_map(|i| self.aligned[*i].nodes.iter().zip(self.sites));
        let mut out: Vec<String> = Vec::new();
        for (node, site) in places.filter(|_| p.callable.is_some()) {
            let s = site.source();
            let Ok(all) = s.lang.declared_exceptions(s, *node, s.tree.end(*node), &self.definitions()) else {
                let message = format!("what `{}` may throw is not known", s.str(*node));
                return Err(reason(s, *node, Code::HoleNoValue, message));
            };
            all.into_iter().for_each(|e| {
                if !out.contains(&e) {
                    out.push(e)
                }
            });
        }
        Ok(out)
    }

    /// A type of functions of its own, for a parameter that no type of the language fits.
    pub(super) fn own_function(&self, p: &Parameter, name: &str, throws: Vec<String>) -> Result<FunctionType, Reason> {
        let site = &self.sites[self.home.template];
        let node = self.aligned[p.places[0]].nodes[self.home.template];
        let refuse = |what: &str| {
            let message = format!("`{}` becomes a function, and {what}", site.source().str(node));
            Err(reason(site.source(), node, Code::HoleNoValue, message))
        };
        let mut generics = Vec::new();
        let called = p.callable.as_ref().and_then(|c| c.passed.first());
        let parts = called.and_then(|c| Some((self.passed(node, c, &mut generics)?, self.results(p, &mut generics)?)));
        let Some((parameters, results)) = parts.filter(|_| generics.is_empty()) else {
            return refuse("its types are not known, or are type parameters");
        };
        let [result] = &results[..] else { return refuse("the copies give values of several types") };
        let home = self.home.source(self.sites);
        if !self.home.class.is_some_and(|c| home.lang.takes_static(home, c)) {
            return refuse("the class there holds no type for it");
        }
        let (result, reach) = (result.clone(), self.reach_beside());
        let own = FunctionType { name: String::new(), parameters, result, throws, reach };
        let name = self.free_name(name.trim_end_matches("Of"), self.kind_of(&own)).ok_or_else(|| {
            reason(site.source(), node, Code::NameTaken, "no free name was found for the type of a function")
        })?;
        Ok(FunctionType { name, ..own })
    }

    /// The last word of a name for a type of functions.
    pub(super) fn kind_of(&self, f: &FunctionType) -> &'static str {
        let lang = self.home.source(self.sites).lang;
        match (f.result.as_str(), f.parameters.is_empty()) {
            (r, _) if r == lang.no_result_type() => "Action",
            (r, _) if Some(r) == lang.literal_type(lang.truth(true)) => "Test",
            (_, true) => "Supplier",
            _ => "Function",
        }
    }

    /// Who sees a type that stands beside the function.
    pub(super) fn reach_beside(&self) -> Reach {
        let home = self.home.source(self.sites);
        match self.home.class.is_some_and(|c| home.lang.takes_private_types(home, c)) {
            true => self.home.reach,
            false => self.home.reach.max(Reach::Near),
        }
    }

    /// A name for a type that nothing in the project uses.
    pub(super) fn free_name(&self, base: &str, kind: &str) -> Option<String> {
        let capital = |w: &String| w[..1].to_uppercase() + &w[1..];
        let base: String = words(base).iter().map(capital).collect();
        let all = [format!("{base}{kind}"), format!("{base}{kind}s"), format!("{base}Own{kind}")];
        all.into_iter().find(|n| !is_taken(self.sites, n, true) && !self.project.word_elsewhere(n, &[]))
    }

    /// A type parameter of the class that takes the function as its object's method.
    pub(crate) fn is_of_home(&self, b: BindingId) -> bool {
        let s = self.sites[self.home.template].source();
        // those of the functions around an inner one
        let owner = s.names.scope(s.names.binding(b).scope).node;
        if self.home.nest.is_some_and(|nest| s.tree.contains(owner, nest)) {
            return true;
        }
        let own = self.home.takes_object() && self.home.outside.is_none();
        let class = self.home.class.filter(|_| own).and_then(|c| s.tree.child(c, Field::Body));
        Some(s.names.scope(s.names.binding(b).scope).node) == class
    }

    pub(super) fn unknown(&self, p: &Parameter, name: &str) -> Reason {
        let site = &self.sites[self.home.template];
        let node = self.aligned[p.places[0]].nodes[self.home.template];
        let nodes = || self.aligned[p.places[0]].nodes.iter().zip(self.sites);
        let literals: Vec<&str> = nodes().map(|(n, x)| x.source().str(*n)).collect();
        if p.callable.is_none() && site.source().lang.of_literals(&literals).is_some() {
            let message =
                format!("`{}` may be asked for as one of a few values, and gives a variable its type", literals[0]);
            return reason(site.source(), node, Code::UnknownType, message);
        }
        let type_text = |n: NodeId, x: &Portion| self.project.type_text(x.source(), n);
        let known: Option<Vec<String>> = nodes().map(|(n, x)| type_text(*n, x)).collect();
        if let Some(all) = known.filter(|_| p.callable.is_none()) {
            let odd = all.iter().find(|t| **t != all[0]);
            let message = match odd {
                Some(odd) => format!("the copies have values of the types `{}` and `{odd}` for `{name}`", all[0]),
                None => format!("`{}` can't be named where the new function stands", all[0]),
            };
            return reason(site.source(), node, Code::UnknownType, message);
        }
        // the copy whose value has none
        let odd = nodes().find(|(n, x)| p.callable.is_none() && type_text(**n, x).is_none());
        let (node, site) = odd.map_or((node, site), |(n, x)| (*n, x));
        let text = site.source().str(node);
        let message = match p.callable.is_some() && site.source().lang.needs_result_type() {
            true => format!("`{text}` differs, and no function type stands for it; give one with --type {name}=TYPE"),
            false => format!("the type of `{text}` is not known; give it with --type {name}=TYPE"),
        };
        reason(site.source(), node, Code::UnknownType, message)
    }

    pub(super) fn parameter(
        &self,
        p: &Parameter,
        general: &General,
        generics: &mut Vec<BindingId>,
        out: &mut Signature,
    ) -> Option<String> {
        let nodes = &self.aligned[p.places[0]].nodes;
        if let Some(c) = &p.callable {
            return self.function(p, c.passed.first()?, generics);
        }
        let (s, node) = (self.sites[self.home.template].source(), nodes[self.home.template]);
        let texts: Vec<&str> = nodes.iter().zip(self.sites).map(|(n, s)| s.source().str(*n)).collect();
        if let Some(literals) = s.lang.of_literals(&texts) {
            return self.of_literals(p, literals);
        }
        let seen: Vec<Option<(Ty, String)>> =
            nodes.iter().enumerate().map(|(i, node)| self.visible(i, *node, generics)).collect();
        let (of, said) = seen.iter().flatten().next()?.clone();
        let placed = |i: usize| {
            let all = p.places.iter().map(|place| self.aligned[*place].nodes[i]);
            let x = self.sites[i].source();
            let fits = all.into_iter().all(|n| x.lang.takes_type_of_place(x, n, of, &self.definitions()));
            fits.then(|| (of, said.clone()))
        };
        let found: Option<Vec<_>> = seen.into_iter().enumerate().map(|(i, f)| f.or_else(|| placed(i))).collect();
        let mut found = found?;
        for (i, (of, text)) in found.iter_mut().enumerate() {
            (*of, *text) = self.any_of_its_kind(p, i, *of).unwrap_or((*of, text.clone()));
            // a single value's type does not take what the code gives it
            let x = self.sites[i].source();
            let written = |n: NodeId| x.names.at(n).is_some_and(|r| r.usage.writes());
            let narrow = !matches!(of.kind(), Kind::Union(_)) && x.lang.general(*of) != *of;
            if narrow && p.places.iter().any(|place| written(self.aligned[*place].nodes[i])) {
                return None;
            }
        }
        let (types, texts): (Vec<Ty>, Vec<String>) = found.into_iter().unzip();
        let common: Vec<String> =
            texts.iter().enumerate().map(|(i, text)| in_terms_of(&general.type_holes, i, text)).collect();
        if texts.iter().any(|t| *t != texts[0]) && common.iter().all(|t| *t == common[0]) {
            return common.into_iter().next();
        }
        // the same words mean the same at the home, type parameters too
        let joined = match texts.iter().all(|t| *t == texts[0]) {
            true => Joined { ty: types[self.home.template], is_wider: false },
            false => s.lang.join(&types)?,
        };
        let text = s.lang.spell(joined.ty, s, &self.definitions())?;
        if joined.is_wider {
            let message = format!("the code is right for any `{text}`");
            out.assumptions.push(reason(s, node, Code::UnitedTypes, message));
        }
        Some(text)
    }

    /// The type of literals: that of all like them, or just theirs where something asks for it. None where that is asked for
    /// and something else takes its own type from them.
    fn of_literals(&self, p: &Parameter, literals: String) -> Option<String> {
        let places = || p.places.iter().flat_map(|place| self.aligned[*place].nodes.iter().zip(self.sites));
        let general = |(n, x): (&NodeId, &Portion)| self.project.type_text(x.source(), *n);
        let of = places().next().and_then(general)?;
        let asked = places().map(|(n, x)| own_type(self.project, x.source(), *n, &of)).max()?;
        match asked > Asked::No {
            true if places().any(|(n, x)| is_widened(x.source(), *n)) => None,
            true => Some(literals),
            false => Some(of),
        }
    }

    /// The type of all values like a single one, where nothing in the copy depends on its being that one.
    fn any_of_its_kind(&self, p: &Parameter, i: usize, of: Ty) -> Option<(Ty, String)> {
        let s = self.sites[i].source();
        let general = s.lang.general(of);
        if matches!(of.kind(), Kind::Union(_)) || general == of {
            return None;
        }
        let text = s.lang.spell(general, s, &self.definitions())?;
        let mut nodes = p.places.iter().map(|place| self.aligned[*place].nodes[i]);
        let depends = nodes.any(|n| is_own_type_used(self.project, s, n, &text));
        (!depends).then_some((general, text))
    }

    /// The type of a function that the body calls.
    fn function(&self, p: &Parameter, passed: &[String], generics: &mut Vec<BindingId>) -> Option<String> {
        let node = self.aligned[p.places[0]].nodes[self.home.template];
        let results = self.results(p, generics)?;
        self.sites[0].source().lang.function_type(&self.passed(node, passed, generics)?, &results)
    }

    /// Types of what the sites' functions give.
    fn results(&self, p: &Parameter, generics: &mut Vec<BindingId>) -> Option<Vec<String>> {
        let mut results: Vec<String> = Vec::new();
        let first = &self.sites[0].source();
        let for_effect = is_for_effect(&first.tree, self.aligned[p.places[0]].nodes[0]);
        if for_effect {
            results.push(first.lang.no_result_type().to_string());
        }
        for (i, node) in self.aligned[p.places[0]].nodes.iter().enumerate().filter(|_| !for_effect) {
            let (_, r) = self.visible(i, *node, generics)?;
            if !results.contains(&r) {
                results.push(r);
            }
        }
        Some(results)
    }

    /// A flag, or a function that takes what the body passes.
    pub(super) fn of_optional(&self, o: &Optional, generics: &mut Vec<BindingId>) -> Option<String> {
        let s = self.sites[self.home.template].source();
        if o.is_flag {
            return s.lang.literal_type(s.lang.truth(true)).map(str::to_string);
        }
        s.lang.function_type(&self.passed(o.statement, &o.passed, generics)?, &[s.lang.no_result_type().to_string()])
    }

    /// Parameters, each with its type, of a function that takes these locals of the template, which a node uses.
    fn passed(&self, node: NodeId, names: &[String], generics: &mut Vec<BindingId>) -> Option<Vec<(String, String)>> {
        let template = self.home.template;
        let s = self.sites[template].source();
        let typed = |name: &String| {
            let used = s.tree.subtree(node).find(|n| s.tree.role(*n) == Role::Name && s.str(*n) == *name)?;
            Some((name.clone(), self.visible(template, used, generics)?.1))
        };
        names.iter().map(typed).collect()
    }

    pub(crate) fn definitions(&self) -> impl Fn(&Source, &str) -> Option<(std::sync::Arc<Source>, NodeId)> + '_ {
        |s: &Source, name: &str| self.project.definition(s, name)
    }

    /// The type of a site's value with its text, when its words mean the same at the home.
    pub(crate) fn visible(&self, i: usize, node: NodeId, generics: &mut Vec<BindingId>) -> Option<(Ty, String)> {
        let s = self.sites[i].source();
        let ty = s.lang.type_from(s, node, self.sites[i].region.first, &self.definitions());
        let text = s.lang.spell(ty, s, &self.definitions())?;
        self.words_visible(i, &text, generics)?;
        ty.parts().into_iter().all(|p| self.is_own_parameter(i, p)).then_some((ty, text))
    }

    /// A type parameter is one of those that the site sees.
    fn is_own_parameter(&self, i: usize, part: Ty) -> bool {
        let Kind::Parameter { name, declared } = part.kind() else { return true };
        let s = self.sites[i].source();
        let mut scopes = s.names.scope_chain(self.sites[i].scope);
        let in_scope = |x| s.names.declared_as(x, Space::Types, &name).or_else(|| s.names.declared_in(x, &name));
        let found = scopes.find_map(in_scope);
        found.is_some_and(|b| format!("{}:{}", s.path, s.tree.span(s.names.binding(b).first).start) == declared)
    }

    /// Whether the words of a site's type mean the same at the home.
    pub(crate) fn words_visible(&self, i: usize, text: &str, generics: &mut Vec<BindingId>) -> Option<()> {
        let s = self.sites[i].source();
        let home = self.sites[self.home.template].source();
        for word in without_known_paths(s, text)
            .split(|c: char| !c.is_alphanumeric() && c != '_' && c != '$')
            .filter(|w| s.lang.is_identifier(w))
        {
            let scope = self.sites[i].scope;
            let around = || s.names.scope_chain(scope);
            let found = around().find_map(|x| s.names.declared_as(x, Space::Types, word));
            let found = found.or_else(|| around().find_map(|x| s.names.declared_in(x, word)));
            let Some(b) = found else {
                // what files of a package see of each other is not the same in all packages
                let by_space = s.name_spaces().is_some();
                let moved =
                    s.path != home.path && (by_space || !s.lang.free_names_are_global() && !s.lang.is_builtin(word));
                if moved && self.project.entity(s, word) != self.project.entity(home, word) {
                    return None;
                }
                continue;
            };
            let binding = s.names.binding(b);
            if s.names.is_member(b) {
                let class = s.names.scope(binding.scope).node;
                let seen = s.path == home.path && self.home.class.is_some_and(|c| s.tree.contains(class, c));
                if !seen && binding.space == Space::Types {
                    return None;
                }
            } else if binding.scope == Names::MODULE {
                let same = self.project.entity(s, word) == self.project.entity(home, word);
                if s.path != home.path && !same {
                    return None;
                }
            } else if is_type_parameter(s, b) {
                let own = self.same_at_home(i, b)?;
                if !generics.contains(&own) {
                    generics.push(own);
                }
            } else if binding.kind == BindKind::Class || s.lang.is_named_in_type(s, text, b) {
                return None;
            }
        }
        Some(())
    }

    /// The template's type parameter of the same name and the same bounds.
    fn same_at_home(&self, i: usize, b: BindingId) -> Option<BindingId> {
        let (s, home) = (self.sites[i].source(), self.sites[self.home.template].source());
        let name = &s.names.binding(b).name;
        let mut scopes = home.names.scope_chain(self.sites[self.home.template].scope);
        let own = scopes.find_map(|x| home.names.declared_in(x, name)).filter(|o| is_type_parameter(home, *o))?;
        (type_parameter(s, b) == type_parameter(home, own)).then_some(own)
    }
}
