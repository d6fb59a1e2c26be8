//! `lift`: members that classes repeat go to the class that all of them extend.

use ufold_core::step::{LiftRequest, Request, file_for_base, members_but_values, members_like};

use super::pointed;
use crate::args::Lift;
use crate::session::Session;

pub fn run(s: &Session, a: &Lift) -> anyhow::Result<u8> {
    let typed = s.expanded(&a.place);
    let into = a.into.as_deref().map(|p| s.new_path(p)).transpose()?;
    let to = a.to.as_deref().map(|t| t.rsplit(':').next().unwrap_or(t).to_string());
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let named = pointed::names(s, project, &typed)?;
        let new_base = a.new_base.is_some();
        let (mut places, mut values) = (members_like(project, &named, new_base), a.values.clone());
        // no other class has the very same
        if places.len() == named.len()
            && let Some(found) = members_but_values(project, &named, new_base)
        {
            places = found;
            values.extend(values.is_empty().then(String::new));
        }
        let into = into.or_else(|| file_for_base(project, &places, a.new_base.as_deref()?));
        let new_base = a.new_base.clone();
        Ok(Request::Lift(LiftRequest { finding: typed.to_string(), places, to, new_base, into, values, narrow: false }))
    })
}
