//! `extract`: statements or an expression that a person points at become a function, and so do other copies of them.
//!
//! The one region decides what the function takes; a copy joins when it needs no parameter more.

use super::fold::{audited_as, planned_from};
use super::project::Project;
use super::range::alike;
use super::region::locate;
use super::{Outcome, PLAN_SCHEMA, Place, Plan, Request, Verdict};
use crate::names::Source;
use crate::text::Span;

/// Copies that could join; more are not looked at.
const MOST_COPIES: usize = 60;

/// Plans the extraction that a request asks for: its first copy is the region, the others are its copies.
pub fn plan_extract(project: &Project, request: &Request) -> Plan {
    let result = planned_from(project, request, 1);
    let result = audited_as("extract", project, request, result);
    Plan { schema: PLAN_SCHEMA.into(), step: "extract".into(), request: request.clone(), result }
}

/// Other copies of the request's region.
#[derive(Default)]
pub struct Others {
    /// They need no parameter more.
    pub joining: Vec<Place>,
    /// They would, or they do not fit for another reason.
    pub differing: Vec<Place>,
}

/// Copies of the region in its file, or in the whole project.
pub fn copies_of(project: &Project, request: &Request, everywhere: bool) -> Others {
    let mut out = Others::default();
    let own = &request.copies[0];
    let Some(home) = project.index(&own.file) else { return out };
    let Ok(source) = project.source(home) else { return out };
    let Ok(region) = locate(&source, own) else { return out };
    let alone = planned_from(project, &Request { copies: vec![own.clone()], ..request.clone() }, 1);
    if alone.verdict == Verdict::Refused {
        return out;
    }
    let mut taken = vec![(home, Span::new(own.start_byte, own.end_byte))];
    let language = &project.facts[home].language;
    let files =
        (0..project.facts.len()).filter(|f| *f == home || everywhere && project.facts[*f].language == *language);
    for file in files {
        let Ok(other) = project.source(file) else { continue };
        for span in alike(&other, &region) {
            if taken.iter().any(|(f, s)| *f == file && s.overlaps(span)) || taken.len() > MOST_COPIES {
                continue;
            }
            let place = place_of(&other, span);
            let both = Request { copies: vec![own.clone(), place.clone()], except: Vec::new(), ..request.clone() };
            let pair = planned_from(project, &both, 2);
            taken.push((file, span));
            if fits(&alone, &pair) { out.joining.push(place) } else { out.differing.push(place) }
        }
    }
    out
}

fn fits(alone: &Outcome, pair: &Outcome) -> bool {
    pair.verdict != Verdict::Refused
        && pair.sites.len() == 2
        && pair.parameters.len() == alone.parameters.len()
        && !pair.parameters.iter().any(|p| p.is_function)
}

pub fn place_of(source: &Source, span: Span) -> Place {
    Place {
        file: source.path.clone(),
        start_line: source.lines.line(span.start),
        end_line: source.lines.line(span.end.max(span.start + 1) - 1),
        start_byte: span.start,
        end_byte: span.end,
    }
}
