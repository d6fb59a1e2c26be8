//! Types that the new function says where the copies' functions do: of its parameters and of its result.

use crate::names::Source;
use crate::plan::region::Portion;
use crate::plan::render::Written;
use crate::tree::{Field, NodeId, Role};

/// The type of a function's result names one of its parameters, or its object: another function can't say it.
pub(super) fn tells_of_parameters(s: &Source, function: NodeId) -> bool {
    let t = &s.tree;
    let Some(result) = t.child(function, Field::ReturnType) else { return false };
    let list = t.child(function, Field::Parameters);
    let bound = |n: &NodeId| s.names.at(*n).is_some_and(|r| r.usage.writes());
    let own: Vec<&str> = list.map_or(Vec::new(), |l| t.subtree(l).filter(bound).map(|n| s.str(n)).collect());
    let tells = |word: &str| own.contains(&word) || Some(word) == s.lang.object_word();
    t.subtree(result).filter(|n| t.is_leaf(*n)).any(|n| tells(s.str(n)))
}

impl Written<'_> {
    /// Annotations, when the file's functions have them and they are known for all parameters and the results.
    pub(super) fn annotations(&self) -> Option<(Vec<String>, Option<String>)> {
        let all: Vec<(Vec<Option<String>>, Option<String>)> =
            (0..self.sites.len()).map(|i| self.site_annotations(i)).collect::<Option<_>>()?;
        let first = all.first()?;
        let same = all.iter().all(|a| a == first);
        let complete: Option<Vec<String>> = first.0.iter().cloned().collect();
        same.then_some((complete?, first.1.clone()))
    }

    /// Where types are written: that of the result, when it must be or when all copies return and their functions agree
    /// on it.
    pub(super) fn result_type(&self) -> Option<String> {
        if let Some(must) = &self.types?.result {
            return Some(must.clone());
        }
        let written = |site: &Portion| {
            let s = site.source();
            let returned = site.returns_value();
            let generic = s.tree.child(site.function, Field::TypeParams).is_some();
            let waits = s.tree.children(site.function).any(|c| s.tree.role(c) == Role::AsyncMark);
            let own = s.tree.child(site.function, Field::ReturnType).filter(|_| returned && !generic && !waits)?;
            if tells_of_parameters(s, site.function) {
                return None;
            }
            Some((s.path.clone(), s.str(own).trim_start_matches(':').trim().to_string()))
        };
        let first = written(self.template())?;
        (!self.is_async()
            && !self.template().delegates
            && self.sites.iter().all(|x| written(x).as_ref() == Some(&first)))
        .then_some(first.1)
    }

    /// Types that values surely have, where functions that say types ask for them when they are called: of each parameter,
    /// and of the result.
    pub(super) fn sure_types(&self) -> (Vec<Option<String>>, Option<String>) {
        let template = self.template();
        let (s, t) = (template.source(), &template.source().tree);
        let list = t.child(template.function, Field::Parameters);
        let says = |p: NodeId| t.child(p, Field::Type).is_some();
        let result = t.child(template.function, Field::ReturnType);
        let habit = result.is_some() || list.is_some_and(|l| t.children(l).any(says));
        let one_file = self.sites.iter().all(|x| x.source().path == s.path);
        let none = || (vec![None; self.general.parameters.len()], None);
        if !habit || !one_file || !s.lang.types_are_checked() {
            return none();
        }
        let sure = |i: usize, n: NodeId| s.lang.sure_type(self.sites[i].source(), n);
        let of = |p: &crate::plan::general::Parameter, i: usize| match &p.variable {
            _ if p.callable.is_some() => s.lang.function_type(&[], &[]),
            Some(v) => sure(i, self.sites[i].source().names.binding(v[i]).first),
            None => sure(i, self.aligned[p.places[0]].nodes[i]),
        };
        // a type that means the class around it
        let of_class = |ty: &String| ty.split(|c: char| !c.is_alphanumeric()).any(|w| s.lang.needs_class(w));
        let known = |ty: &String| self.home.class.is_some() || !of_class(ty);
        let same = |p| {
            let first = of(p, 0).filter(known)?;
            (1..self.sites.len()).all(|i| of(p, i).as_ref() == Some(&first)).then_some(first)
        };
        let parameters = self.general.parameters.iter().map(same).collect();
        let plain = self.sites.iter().all(|x| x.leaving.word().is_none() && !x.delegates);
        let said =
            |x: &Portion| x.source().tree.child(x.function, Field::ReturnType).map(|r| x.source().str(r).to_string());
        let returns = match template.returns_value() {
            _ if !plain || template.region.is_expression => None,
            true => said(template).filter(known).filter(|r| self.sites.iter().all(|x| said(x).as_ref() == Some(r))),
            false if self.general.results.is_empty() => Some(s.lang.no_result_type().to_string()),
            false => None,
        };
        (parameters, returns)
    }

    fn site_annotations(&self, i: usize) -> Option<(Vec<Option<String>>, Option<String>)> {
        let site = &self.sites[i];
        let (s, t) = (site.source(), &site.source().tree);
        let returns = t.child(site.function, Field::ReturnType);
        let list = t.child(site.function, Field::Parameters);
        if site.leaving.word().is_some() || site.delegates || self.general.optional.is_some() {
            return None;
        }
        let habit = returns.is_some() || list.is_some_and(|l| t.children(l).any(|p| t.child(p, Field::Type).is_some()));
        if !habit {
            return None;
        }
        let returned = if !site.returns_value() {
            if !self.general.results.is_empty() {
                return None;
            }
            s.lang.no_result_type().to_string()
        } else {
            s.str(returns?).to_string()
        };
        let of_parameter = |name: &str| -> Option<String> {
            let list = t.child(site.function, Field::Parameters)?;
            let p = t.children(list).find(|p| {
                t.role(*p) == Role::Parameter
                    && t.children(*p).next().is_some_and(|n| t.role(n) == Role::Name && s.str(n) == name)
            })?;
            Some(s.str(t.child(p, Field::Type)?).to_string())
        };
        let known = self.general.parameters.iter().map(|p| {
            let argument = &p.arguments[i];
            s.lang.literal_type(argument).map(str::to_string).or_else(|| of_parameter(argument))
        });
        Some((known.collect(), Some(returned)))
    }
}
