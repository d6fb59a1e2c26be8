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
