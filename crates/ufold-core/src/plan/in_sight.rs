//! Where names are in sight from their declaration on: the new function stands behind all that it names.
//!
//! It stands before the first of its sites, so that only what that site's own statement declares can be missing: a local
//! function that calls itself. Another copy's names are compared with the first one's elsewhere.

use crate::change::{Code, Reason, reason};
use crate::names::{Names, Source};
use crate::plan::home::Home;
use crate::plan::insertion::insertion;
use crate::plan::region::Portion;

/// A name of the code that is declared behind the place of the new function, or one name too many there.
pub fn missing(sites: &[Portion], home: &Home) -> Option<Reason> {
    let template = &sites[home.template];
    let s: &Source = template.source();
    let own: Vec<&Portion> = sites.iter().filter(|x| x.source().path == s.path).collect();
    if !s.lang.declares_before_use() || home.outside.is_some() {
        return None;
    }
    let place = insertion(s, home, &own, "").span.start;
    let region = &template.region;
    // what is local to the code around comes as a parameter
    let nest = home.nest.and_then(|n| s.names.scope_of(n));
    let there = s.names.bindings_of(nest.unwrap_or(Names::MODULE));
    let locals = there.filter(|b| s.names.binding(*b).seen_from.is_some()).count();
    if locals >= s.lang.most_locals() {
        let message = format!("there are {locals} locals already, and no more are allowed");
        return Some(reason(s, region.first, Code::NoHome, message));
    }
    s.names.in_range(region.first, region.end()).iter().find_map(|r| {
        let binding = s.names.binding(r.target?);
        let seen = binding.scope == Names::MODULE || Some(s.names.frame_of(r.target?)) == nest;
        let later = seen && binding.seen_from.is_some() && s.tree.span(binding.first).start >= place;
        let message = || format!("`{}` is not there yet where the function would stand", binding.name);
        (later && !region.contains(binding.first)).then(|| reason(s, r.node, Code::NoHome, message()))
    })
}
