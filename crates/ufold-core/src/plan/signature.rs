//! The types of a whole signature: of the parameters and, where the language wants it written, of the result, the
//! exceptions that leave it, and locals whose declaration stays where it was.
//!
//! All sites must agree; what one of them does not tell is unknown, and the plan is refused.

use crate::change::{Code, Reason, reason};
use crate::lang::FunctionType;
use crate::lang::{Bundle, Leaving};
use crate::names::{BindingId, Source};
use crate::plan::annotations::tells_of_parameters;
use crate::plan::general::{General, Signature, must_declare};
use crate::plan::region::Portion;
use crate::plan::types::Types;
use crate::tree::{Field, NodeId, Role};

impl Types<'_> {
    /// Types of all parameters, or which of them is not known.
    pub fn find(&self, general: &General, names: &[String]) -> Result<Signature, Reason> {
        let mut out = Signature::default();
        let mut generics: Vec<BindingId> = general.generics.clone();
        for (p, name) in general.parameters.iter().zip(names) {
            self.just_a_value(p)?;
            let thrown = self.thrown(p)?;
            let text = match self.wishes.types.get(name) {
                Some(given) if thrown.is_empty() => Some(given.clone()),
                None if thrown.is_empty() => self.parameter(p, general, &mut generics, &mut out),
                _ => None,
            };
            let makes = self.home.source(self.sites).lang.makes_function_types();
            let text = match text {
                Some(text) => text,
                None if p.callable.is_some() && makes => {
                    let plain = thrown.is_empty();
                    let own = self.own_function(p, name, thrown);
                    let own = own.map_err(|r| if plain { self.unknown(p, name) } else { r })?;
                    self.add_function(own, &mut out)
                }
                None => return Err(self.unknown(p, name)),
            };
            out.parameters.push(text);
        }
        if let Some(o) = &general.optional {
            let node = |s: &Source| s.tree.span(o.statement);
            let source = self.sites[self.home.template].source();
            let lost = || {
                let text = &source.text[node(source).start..node(source).end];
                reason(source, o.statement, Code::UnknownType, format!("the types in `{text}` are not known"))
            };
            let given = names.last().and_then(|n| self.wishes.types.get(n)).cloned();
            let found = given.or_else(|| self.of_optional(o, &mut generics));
            out.optional = Some(found.ok_or_else(lost)?);
        }
        let s = self.sites[self.home.template].source();
        // those of the class are there already
        if s.lang.needs_result_type() {
            add(self, general, &mut generics, &mut out)?;
        } else {
            let asked = self.is_typed_by_return();
            if asked || s.lang.says_result_types(s) {
                out.result = self.said_result(general, &mut generics);
            }
            if asked && out.result.is_none() {
                let at = self.sites[self.home.template].region.first;
                let message =
                    "what is returned has its type from the function around the code, and that type is not known";
                return Err(reason(s, at, Code::UnknownType, message));
            }
        }
        // bounds may name others
        let mut at = 0;
        while let Some(b) = generics.get(at).copied() {
            let text = s.tree.parent(s.names.binding(b).first).map_or("", |d| s.str(d));
            if self.words_visible(self.home.template, text, &mut generics).is_none() {
                let message =
                    format!("what `{}` is made of is not known where the new function stands", s.names.binding(b).name);
                return Err(reason(s, self.sites[self.home.template].region.first, Code::UnknownType, message));
            }
            at += 1;
        }
        generics.retain(|b| !self.is_of_home(*b));
        generics.sort_by_key(|b| s.names.binding(*b).first);
        for b in generics {
            let definition = s.tree.parent(s.names.binding(b).first);
            let text = definition.map_or(s.names.binding(b).name.as_str(), |d| s.str(d)).to_string();
            if !out.generics.contains(&text) {
                out.generics.push(text);
            }
        }
        if !general.type_holes.is_empty() && !out.generics.is_empty() {
            let at = self.sites[self.home.template].region.first;
            let what = "the types in which the copies differ and the type parameters around them can't be told apart";
            return Err(reason(s, at, Code::UnknownType, what));
        }
        for h in &general.type_holes {
            out.generics.push(self.bound(h, &mut out.assumptions)?);
        }
        Ok(out)
    }

    /// The type of the result, for an author who writes it; none where the compiler is left to find it.
    fn said_result(&self, general: &General, generics: &mut Vec<BindingId>) -> Option<String> {
        let plain = |site: &Portion| {
            let t = &site.source().tree;
            let mut own = (site.region.first.0..site.region.end().0).map(NodeId);
            let stays = matches!(site.leaving, Leaving::Plain | Leaving::Tail);
            stays && !own.any(|n| t.role(n) == Role::Yield || t.role(n) == Role::Await && !waits(site))
        };
        if general.results.len() > 1 || !self.sites.iter().all(plain) {
            return None;
        }
        let before = generics.len();
        let found = agreed(self, |i| match waits(&self.sites[i]) {
            false => result(self, general.results.first(), generics, i),
            true => self.awaited_result(general, i, generics),
        });
        if found.is_err() {
            generics.truncate(before);
        }
        let tells = |x: &Portion| x.returns_value() && tells_of_parameters(x.source(), x.function);
        found.ok().filter(|_| !self.sites.iter().any(tells))
    }

    /// What code gives to a function that hands it on to those who wait for it.
    fn awaited_result(&self, general: &General, i: usize, generics: &mut Vec<BindingId>) -> Result<String, Reason> {
        let site = &self.sites[i];
        let (s, t) = (site.source(), &site.source().tree);
        let holes = general.parameters.iter().filter(|p| p.variable.is_none()).flat_map(|p| &p.places);
        let holes: Vec<NodeId> = holes.map(|place| self.aligned[*place].nodes[i]).collect();
        let own = |a: &NodeId| !holes.iter().any(|h| t.contains(*h, *a));
        // the new function waits itself
        let is_async = site.flow.exits.awaits.iter().any(own);
        let written = t.child(site.function, Field::ReturnType).filter(|_| site.returns_value()).map(|w| s.str(w));
        let inner = written.and_then(|w| s.lang.awaited_type(w));
        let whole = written.map(|w| w.trim_start_matches(':').trim().to_string());
        let seen = inner
            .and_then(|text| if is_async { whole } else { Some(text) })
            .filter(|text| self.words_visible(i, text, generics).is_some());
        seen.ok_or_else(|| {
            reason(s, site.region.first, Code::UnknownType, "the type of what is returned is not known".to_string())
        })
    }

    /// A value that is returned has its type, or its parameters theirs, from the function around the code.
    fn is_typed_by_return(&self) -> bool {
        let site = &self.sites[self.home.template];
        let (s, t) = (site.source(), &site.source().tree);
        let written =
            t.child(site.function, Field::ReturnType).map(|w| s.str(w).trim_start_matches(':').trim().to_string());
        let inner = written.map(|w| s.lang.awaited_type(&w).unwrap_or(w));
        // a word of the language is the type of any such value
        let said = inner.is_some_and(|w| !w.chars().all(|c| c.is_ascii_lowercase()));
        let around = t.parent(site.function).filter(|a| t.role(*a) == Role::Assign);
        let is_asked = said || around.is_some_and(|a| t.child(a, Field::Type).is_some());
        let values = site.flow.exits.returns.iter().filter_map(|r| t.children(*r).next());
        site.returns_value() && values.into_iter().any(|v| s.lang.takes_type_from_around(s, v, is_asked))
    }

    /// The type for one parameter more; those that say the same are one, named by the function that takes them.
    fn add_function(&self, own: FunctionType, out: &mut Signature) -> String {
        let same = |f: &FunctionType| {
            let types = |f: &FunctionType| f.parameters.iter().map(|(_, t)| t.clone()).collect::<Vec<_>>();
            f.result == own.result && f.throws == own.throws && types(f) == types(&own)
        };
        let number = out.parameters.len();
        if !out.functions.iter().any(|(_, f)| same(f)) {
            let name = own.name.clone();
            out.functions.push((number, own));
            return name;
        }
        let shared = self.free_name(self.name, self.kind_of(&own));
        let name = shared.unwrap_or_else(|| own.name.clone());
        out.functions.push((number, FunctionType { name: name.clone(), ..own.clone() }));
        for (p, f) in out.functions.iter_mut().filter(|(_, f)| same(f)) {
            f.name.clone_from(&name);
            if *p < number {
                out.parameters[*p].clone_from(&name);
            }
        }
        name
    }
}

/// The function around the code gives its result to those who wait for it.
fn waits(site: &Portion) -> bool {
    let t = &site.source().tree;
    t.children(site.function).any(|c| t.role(c) == Role::AsyncMark)
}

fn add(types: &Types, general: &General, generics: &mut Vec<BindingId>, out: &mut Signature) -> Result<(), Reason> {
    let sites = types.sites;
    let template = &sites[types.home.template];
    let s = template.source();
    let given = agreed(types, |i| result(types, general.results.first(), generics, i))?;
    out.result = Some(given);
    if general.results.len() > 1 {
        match several(types, general, generics)? {
            Some(text) => out.result = Some(text),
            None => {
                let bundle = bundle(types, general)?;
                out.result = Some(bundle.name.clone());
                out.bundle = Some(bundle);
            }
        }
    }
    out.throws = exceptions(types, template)?;
    for site in sites {
        // what is declared is caught or declared at each site, or the site would not compile
        let mut own = exceptions(types, site)?;
        own.sort();
        let mut said = out.throws.clone();
        said.sort();
        if own != said {
            let message = "what the copies throw can't be told apart from what is thrown around them";
            return Err(reason(site.source(), site.region.first, Code::UnknownExceptions, message));
        }
    }
    for b in template.flow.written.iter().filter(|b| must_declare(template, types.home.template, general, **b)) {
        let declared = template.declarations(*b).first().map(|d| d.0);
        let word = s.lang.local_word(s, *b, declared, &types.definitions()).ok_or_else(|| {
            let message = format!("the type of `{}` is not known", s.names.binding(*b).name);
            reason(s, template.region.first, Code::UnknownType, message)
        })?;
        out.locals.push((*b, word));
    }
    Ok(())
}

/// What all sites say of a type.
fn agreed(types: &Types, mut of: impl FnMut(usize) -> Result<String, Reason>) -> Result<String, Reason> {
    let all: Vec<String> = (0..types.sites.len()).map(&mut of).collect::<Result<_, _>>()?;
    match all.iter().position(|r| *r != all[0]) {
        None => Ok(all.into_iter().next().expect("a plan has a site")),
        Some(odd) => {
            let at = &types.sites[odd];
            let message = format!("the copies give values of the types `{}` and `{}`", all[0], all[odd]);
            Err(reason(at.source(), at.region.first, Code::UnknownType, message))
        }
    }
}

/// The type of several results where the language has one for them.
fn several(types: &Types, general: &General, generics: &mut Vec<BindingId>) -> Result<Option<String>, Reason> {
    let template = &types.sites[types.home.template];
    let s = template.source();
    let mut members = Vec::new();
    if s.lang.several_type(&[]).is_none() {
        return Ok(None);
    }
    for r in &general.results {
        let of = agreed(types, |i| result(types, Some(r), generics, i))?;
        members.push((of, s.names.binding(r[types.home.template]).name.clone()));
    }
    Ok(s.lang.several_type(&members))
}

/// The type for several results, where a person wishes for one.
fn bundle(types: &Types, general: &General) -> Result<Bundle, Reason> {
    let template = &types.sites[types.home.template];
    let s = template.source();
    let names: Vec<String> =
        general.results.iter().map(|r| s.names.binding(r[types.home.template]).name.clone()).collect();
    let refuse = |message: String| Err(reason(s, template.region.first, Code::SeveralResults, message));
    if types.wishes.results.is_none() {
        let message = format!("a function gives one value, and {} are needed after the code", names.join(", "));
        return refuse(message);
    }
    let home = types.home.source(types.sites);
    if !types.home.class.is_some_and(|c| home.lang.takes_static(home, c)) {
        return refuse("the class there holds no type for the results".into());
    }
    let mut members = Vec::new();
    for (r, name) in general.results.iter().zip(names) {
        let mut generics = Vec::new();
        let of = agreed(types, |i| result(types, Some(r), &mut generics, i))?;
        if !generics.is_empty() {
            return refuse(format!("the type of `{name}` has a type parameter in it"));
        }
        members.push((of, name));
    }
    let name = types.free_name(types.name, "Result").ok_or_else(|| {
        reason(s, template.region.first, Code::NameTaken, "no free name was found for the type of the results")
    })?;
    let is_short = s.lang.bundles_shortly(&members, types.project.edition(s.lang));
    Ok(Bundle { name, members, is_short, reach: types.reach_beside() })
}

fn exceptions(types: &Types, site: &Portion) -> Result<Vec<String>, Reason> {
    let s = site.source();
    let told = s.lang.declared_exceptions(s, site.region.first, site.region.end(), &types.definitions());
    told.map_err(|(node, message)| reason(s, node, Code::UnknownType, message))
}

/// The type of what a site gets.
fn result(
    types: &Types,
    local: Option<&Vec<BindingId>>,
    generics: &mut Vec<BindingId>,
    i: usize,
) -> Result<String, Reason> {
    let site = &types.sites[i];
    let (s, t) = (site.source(), &site.source().tree);
    let unknown = |what: &str| {
        let message = format!("the type of {what} is not known");
        reason(s, site.region.first, Code::UnknownType, message)
    };
    let mut of =
        |node: NodeId, what: &str| types.visible(i, node, generics).map(|(_, text)| text).ok_or_else(|| unknown(what));
    if site.region.is_expression {
        let node = site.region.first;
        if s.lang.asks_more_than_type(s, node, &types.definitions()) {
            let message = "the compiler looks at this constant itself here, not only at its type";
            return Err(reason(s, node, Code::NotAValue, message));
        }
        let text = of(node, &format!("`{}`", s.str(node)))?;
        if text == s.lang.no_result_type() {
            return Err(reason(s, node, Code::NotAValue, "the call gives no value; point at the whole statement"));
        }
        return Ok(text);
    }
    match site.leaving {
        Leaving::Guard | Leaving::Break | Leaving::Continue => {
            let flag = s.lang.literal_type(s.lang.truth(true)).unwrap_or_default();
            return Ok(flag.to_string());
        }
        _ => {}
    }
    if site.returns_value() || site.leaving == Leaving::Value {
        let written = t.child(site.function, Field::ReturnType).filter(|_| t.role(site.function) == Role::Function);
        if let Some(w) = written {
            let text = s.str(w).trim_start_matches(':').trim();
            let inner = s.lang.awaited_type(text).filter(|_| waits(site));
            let text = inner.as_deref().unwrap_or(text);
            let seen = types.words_visible(i, text, generics);
            return seen.map(|_| text.to_string()).ok_or_else(|| unknown("the result"));
        }
        // a function without a name, or one that makes an object
        let values = site.flow.exits.returns.iter().filter_map(|r| t.children(*r).next());
        let all: Vec<String> = values.map(|v| of(v, "the result")).collect::<Result<_, _>>()?;
        let first = all.first().cloned().unwrap_or_else(|| s.lang.no_result_type().to_string());
        return if all.iter().all(|x| *x == first) { Ok(first) } else { Err(unknown("the result")) };
    }
    if !site.flow.falls_through {
        let message = "the code never comes to its end, and the compiler would not know that of a call";
        return Err(reason(s, site.region.first, Code::NeverEnds, message.to_string()));
    }
    match local {
        Some(r) => {
            let binding = s.names.binding(r[i]);
            of(binding.first, &format!("`{}`", binding.name))
        }
        None => Ok(s.lang.no_result_type().to_string()),
    }
}
