//! Parameters that follow from others: the negation of one, the same text in other case, a number always as far away.
//!
//! Only between literals, whose values are known at every site. Found for an offer; done when a person asks for it, for
//! that two columns go together in all copies does not tell that they belong together.

use crate::lang::values::{Derivation, Value, value};
use crate::plan::general::Parameter;
use crate::plan::region::Portion;

/// One parameter that another could compute, by their numbers.
pub struct Offer {
    pub from: usize,
    pub derived: usize,
    pub how: Derivation,
}

/// What could be derived, each parameter at most once and from one that stays.
pub fn offers(parameters: &[Parameter], sites: &[Portion]) -> Vec<Offer> {
    let values: Vec<Option<Vec<Value>>> = parameters.iter().map(|p| column(p, sites)).collect();
    let mut out: Vec<Offer> = Vec::new();
    for b in 0..values.len() {
        for a in 0..b {
            let (Some(x), Some(y)) = (&values[a], &values[b]) else { continue };
            let free = |i: usize| out.iter().all(|o| o.derived != i);
            let used = |i: usize| out.iter().any(|o| o.from == i);
            let forward = Derivation::between(x, y).map(|how| Offer { from: a, derived: b, how });
            let back = || Derivation::between(y, x).map(|how| Offer { from: b, derived: a, how });
            let found = forward.or_else(back).filter(|o| free(o.from) && free(o.derived) && !used(o.derived));
            out.extend(found);
        }
    }
    out
}

fn column(p: &Parameter, sites: &[Portion]) -> Option<Vec<Value>> {
    let plain = p.variable.is_none() && p.callable.is_none();
    let values = p.arguments.iter().zip(sites).map(|(a, s)| value(s.source().lang, a));
    values.collect::<Option<Vec<_>>>().filter(|_| plain)
}

/// Takes what is offered: the places of a derived parameter are computed from another.
pub fn derive(parameters: &mut Vec<Parameter>, sites: &[Portion]) {
    let mut gone = Vec::new();
    for o in offers(parameters, sites) {
        let places = parameters[o.derived].places.clone();
        parameters[o.from].derived.extend(places.into_iter().map(|i| (i, o.how)));
        gone.push(o.derived);
    }
    let mut i = 0;
    parameters.retain(|_| {
        i += 1;
        !gone.contains(&(i - 1))
    });
}
