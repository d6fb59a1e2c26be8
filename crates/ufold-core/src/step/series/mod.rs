//! `series`: the same statements several times side by side become a loop over a list of what differs.
//!
//! The list is made before the first turn, so that what stands in it must be the same value then: a literal, or a name
//! that nothing gives another value meanwhile. What leaves a loop would leave the new one; what is captured in a turn must
//! be that turn's. Fails where copies differ in more than single words: a function takes those.

mod column_names;
mod counted;
mod kept;
mod table;
mod types;
mod written;

use serde::{Deserialize, Serialize};

use self::table::Table;
use super::{Plan, Request, Step};
use crate::change::{Claim, Code, Edits, Found, Outcome, Place, Verdict, reason};
use crate::index::Project;
use crate::index::seen::shows_names;
use crate::names::{BindingId, Source};
use crate::plan::frame;
use crate::text::Span;
use crate::tree::{NodeId, Role, Tree};

/// What a person may edit of a series.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SeriesRequest {
    /// The finding's id, for messages.
    pub finding: String,
    /// The copies, in the order of the file.
    pub copies: Vec<Place>,
    /// Names of what differs, in the order of first use; those that are missing are found.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub names: Vec<String>,
}

impl Step for SeriesRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        &self.copies
    }

    fn claim(&self) -> Claim {
        Claim::Unrolled
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Make a loop of {} copies", self.copies.len())
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Series(self.clone()), run(project, self))
    }
}

fn run(project: &Project, request: &SeriesRequest) -> Found<Outcome> {
    let s = project.ordered_source_at(&request.copies[0])?;
    let rows = request.copies.iter().map(|p| statements(&s, p)).collect::<Found<Vec<_>>>()?;
    let frame = frame(project, &s, rows[0][0])?;
    if let Some(n) = shows_names(project, &s, frame, frame == Tree::ROOT) {
        return Err(vec![reason(&s, n, Code::Reflection, "the names of locals are looked at here")]);
    }
    let table = Table::of(&s, frame, rows)?;
    if let Some(l) = table.locals.iter().flat_map(|l| &l.bindings).find(|b| seen_elsewhere(project, &s, frame, **b)) {
        let first = s.names.binding(*l).first;
        return Err(vec![reason(&s, first, Code::OutsideUsers, "another file has this name")]);
    }
    let asked = |n: NodeId| types::is_asked_for(project, &s, n);
    let made = |n: NodeId| {
        let loops = s.lang.loops().filter(|l| l.takes_made_text(&s, n));
        loops.is_some_and(|l| l.numbered_text(&s, "", "n", "", '"').is_some())
    };
    let fixed = |n: NodeId| asked(n) || !made(n);
    let given = counted::given(&s, &table.columns, &fixed);
    let own_types = types::of_values(&s, &given, &asked)?;
    let names = column_names::find(&s, frame, &table, &given, &request.names)?;
    let mut edits = Edits::default();
    for edit in written::edits(project, &s, &table, (&given, own_types), &names)? {
        edits.add(&s, edit);
    }
    let (files, saves) = edits.finish();
    if saves < 1 {
        return Err(vec![reason(&s, table.rows[0][0], Code::LittleGain, "a loop would save no line")]);
    }
    Ok(Outcome { verdict: Verdict::Ready, files, saves, ..Outcome::refused(Vec::new()) })
}

/// The function around, or the file: the order of what it does stays as it is, and only new names might be seen.
fn frame(project: &Project, s: &Source, first: NodeId) -> Found<NodeId> {
    let t = &s.tree;
    let inside = t.ancestors(first).any(|a| matches!(t.role(a), Role::Class | Role::Function | Role::Lambda));
    if !inside && s.lang.loop_variables_are_fresh() && !s.names.members_in_sight && project.index(&s.path).is_some() {
        return Ok(Tree::ROOT);
    }
    frame::around(project, s, first).map_err(|r| vec![r])
}

/// A variable of the file may be one of others.
fn seen_elsewhere(project: &Project, s: &Source, frame: NodeId, b: BindingId) -> bool {
    let own = project.index(&s.path).into_iter().collect::<Vec<_>>();
    frame == Tree::ROOT && project.word_elsewhere(&s.names.binding(b).name, &own)
}

/// The statements of a copy: side by side in one block.
fn statements(s: &Source, place: &Place) -> Found<Vec<NodeId>> {
    let (t, span) = (&s.tree, Span::new(place.start_byte, place.end_byte));
    let around = t.covering(span);
    let none = || vec![reason(s, around, Code::NoStatements, "the copy is no run of whole statements")];
    let block = std::iter::once(around).chain(t.ancestors(around)).find(|b| t.role(*b).is_sequence());
    let block = block.ok_or_else(none)?;
    let own: Vec<NodeId> =
        t.children(block).filter(|c| t.role(*c) != Role::Token && t.span(*c).overlaps(span)).collect();
    let whole = own.first().is_some_and(|f| t.span(*f).start >= span.start)
        && own.last().is_some_and(|l| t.span(*l).end <= span.end);
    if whole { Ok(own) } else { Err(none()) }
}
