//! `rename`: a variable, parameter, function, class or member, with every reference in the project.
//!
//! Variables are followed by binding, names of modules through imports, members by their word: what an object is can't
//! be told in general, so a member that another class has too is refused, and one used on objects of unknown kind is an
//! assumption. Strings and comments are listed, never changed.

mod new_name;

use std::slice::from_ref;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use self::new_name::NewName;
use crate::change::{Claim, Code, Edits, Found, Outcome, Place, Reason, Verdict, reason};
use crate::index::bound::Bound;
use crate::index::references::References;
use crate::index::seen::Seen;
use crate::index::target::one_word_pair;
use crate::index::{Project, Target, Uses, member_uses, target, typed_classes, typed_members, unseen};
use crate::names::{BindKind, BindingId, Source, Space};
use crate::step::{Plan, Request, Step};
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role};

/// What a person may edit of a renaming.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RenameRequest {
    /// The place as it was typed, for messages.
    pub finding: String,
    /// The name.
    pub place: Place,
    /// The new one.
    pub name: String,
}

impl Step for RenameRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::Renamed { to: self.name.clone() }
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Rename {} to {}", self.finding, self.name)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Rename(self.clone()), Rename { project, request: self }.run())
    }
}

/// More places are not told.
const MOST_PLACES: usize = 12;

type Renaming = (References, Vec<Reason>, Option<(String, String)>);

struct Rename<'a> {
    project: &'a Project<'a>,
    request: &'a RenameRequest,
}

/// A text with the old name in it: the last word of a path, or every one of a type.
fn renamed_text(s: &Source, n: NodeId, old: &str, new: &str) -> String {
    let text = s.str(n);
    let mut places: Vec<usize> = crate::index::words::whole_words(text, old).collect();
    if s.tree.ancestor(n, &[Role::Type]).is_none() {
        places.drain(..places.len().saturating_sub(1));
    }
    let mut out = text.to_string();
    places.into_iter().rev().for_each(|i| out.replace_range(i..i + old.len(), new));
    out
}

impl Rename<'_> {
    fn run(&self) -> Found<Outcome> {
        let (place, new) = (&self.request.place, self.request.name.clone());
        let source = self.project.source_at(place)?;
        let span = Span::new(place.start_byte, place.end_byte);
        let refuse = |code: Code, message: String| {
            Err(vec![Reason { code, message, file: place.file.clone(), line: place.start_line }])
        };
        let Some(target) = target(&source, span) else {
            return refuse(Code::NotAName, "no name of this project stands here".into());
        };
        if let Target::Member(n) = target {
            let t = &source.tree;
            let callee = t.parent(n).is_some_and(|m| t.field(m) == Field::Callee && t.role(m) == Role::Member);
            let declared = source.names.at(n).and_then(|r| r.target).map(|b| source.names.binding(b).kind);
            if !source.lang.fields_have_one_word() && !callee && declared != Some(BindKind::Function) {
                let message = "a field is declared by another word than it is used by, and is not renamed here";
                return refuse(Code::NotAName, message.into());
            }
        }
        let old = source.text[span.start..span.end].to_string();
        if old == new {
            return refuse(Code::NameTaken, format!("`{new}` is its name already"));
        }
        // all at once, on all processors
        unseen::anywhere(self.project, &old).for_each(drop);
        let by = NewName { project: self.project, new: &new };
        let (references, by_new_name, moves) = self.references(&source, target, &old, &by)?;
        let (uses, mut assumed) = (references.sure, references.possible);
        assumed.extend(by_new_name);
        assumed.truncate(MOST_PLACES);
        if let Some(r) = unseen::unparsed(self.project, &old) {
            return Err(vec![r]);
        }
        // a class is seen by its name wherever it is defined
        let of_class = |n: NodeId| source.names.at(n).and_then(|r| r.target).filter(|_| self.is_class(&source, target));
        let seen = match target {
            Target::Member(n) => of_class(n).map_or(target, Target::Binding),
            Target::Binding(_) => target,
        };
        assumed.extend(Seen { project: self.project, home: &source, uses: &uses, old: &old }.by(seen)?);
        let mut edits = Edits::default();
        for u in &uses {
            for n in &u.nodes {
                let span = u.source.tree.span(*n);
                edits.add(&u.source, Edit::new(span.start, span.end, self.text(&u.source, *n, &old, &new)));
            }
        }
        let (mut files, saves) = edits.finish();
        if let Some((from, to)) = moves {
            files.iter_mut().filter(|f| f.file == from).for_each(|f| f.moves_to = Some(to.clone()));
        }
        let remarks = self.mentions(&uses, &old);
        let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        Ok(Outcome { verdict, reasons: assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) })
    }

    /// Who refers to what is renamed, what the new name assumes, and where a class's file goes.
    fn references(&self, s: &Arc<Source>, target: Target, old: &str, by: &NewName) -> Found<Renaming> {
        if self.is_class(s, target) {
            let (found, declared) = typed_classes::find(self.project, s, self.word(s, target), old)?;
            let assumed = by.of_class(s, &found.sure)?;
            let moves = declared.and_then(|(d, c)| Some((d.path.clone(), d.lang.file_of_class(&d, c, by.new)?)));
            if let Some((_, to)) = moves.as_ref().filter(|(_, to)| self.project.index(to).is_some()) {
                return Err(vec![reason(s, self.word(s, target), Code::NameTaken, format!("{to} is there already"))]);
            }
            return Ok((found, assumed, moves));
        }
        let (found, assumed) = match target {
            Target::Binding(b) => {
                let found = Bound { project: self.project }.of(s, b, old)?;
                let assumed = by.of_binding(s, b, &found.sure)?;
                (found, assumed)
            }
            Target::Member(n) if s.names.members_in_sight => {
                let found = typed_members::find(self.project, s, n, old)?;
                let assumed = by.of_typed_member(&found)?;
                (found.references, assumed)
            }
            Target::Member(n) => {
                let (found, family) = member_uses::find(self.project, s, n, old)?;
                by.of_member(s, n, old, &family)?;
                (found, Vec::new())
            }
        };
        Ok((found, assumed, None))
    }

    /// A class, in languages whose types tell which one a word means.
    fn is_class(&self, s: &Source, target: Target) -> bool {
        let b = match target {
            Target::Binding(b) => Some(b),
            Target::Member(n) => s.names.at(n).and_then(|r| r.target),
        };
        let declares = |b: BindingId| {
            let binding = s.names.binding(b);
            let parameter = s.tree.parent(binding.first).is_some_and(|p| s.tree.role(p) != Role::Class);
            binding.space == Space::Types && (binding.import.is_some() || !parameter)
        };
        s.names.members_in_sight && b.is_some_and(declares)
    }

    fn word(&self, s: &Source, target: Target) -> NodeId {
        match target {
            Target::Member(n) => n,
            Target::Binding(b) => {
                let place = &self.request.place;
                let uses = s.names.references_to(b).map(|r| r.node);
                uses.into_iter().find(|n| s.tree.span(*n).start == place.start_byte).unwrap_or(s.names.binding(b).first)
            }
        }
    }

    /// The new word; a key that was named by the old one stays.
    fn text(&self, s: &Source, n: NodeId, old: &str, new: &str) -> String {
        let t = &s.tree;
        match one_word_pair(t, n) {
            Some(_) if t.role(n) == Role::Name => format!("{old}: {new}"),
            Some(_) => format!("{new}: {old}"),
            _ if t.role(n) == Role::Literal => renamed_text(s, n, old, new),
            _ if t.role(n) == Role::KeywordName => new.trim_start_matches(s.lang.variable_mark()).to_string(),
            _ if self.is_passed_on(s, n) => format!("{new} as {old}"),
            // at the end of a path that is one word
            _ => {
                let whole = s.str(n);
                format!("{}{new}", &whole[..whole.len() - s.lang.last_word(whole).len()])
            }
        }
    }

    /// The word of an import whose name the file exports again, or of `export { name } from "./m"`: others know it
    /// under the old one.
    fn is_passed_on(&self, s: &Source, n: NodeId) -> bool {
        let t = &s.tree;
        let alias = t.parent(n).filter(|p| t.role(*p) == Role::ImportAlias && t.child(*p, Field::Alias).is_none());
        let statement = alias.and_then(|a| t.ancestor(a, &[Role::ImportFrom, Role::Import]));
        let again = || s.names.at(n).and_then(|r| r.target).is_some_and(|b| s.lang.exports_again(s, b));
        statement.is_some_and(|i| t.role(i) == Role::ImportFrom && s.lang.passes_names_on(s.str(i)) || again())
    }

    /// Strings and comments with the word, which stay.
    fn mentions(&self, uses: &[Uses], old: &str) -> Vec<String> {
        let mut out = Vec::new();
        for u in uses {
            let s = &u.source;
            let changed = |n: &NodeId| u.nodes.contains(n);
            let strings = s
                .tree
                .ids()
                .filter(|n| matches!(s.tree.role(*n), Role::Literal | Role::TemplateText | Role::Doc) && !changed(n));
            let strings = strings.map(|n| s.tree.span(n)).chain(s.tree.comments().iter().copied());
            for span in strings.filter(|p| crate::index::words::has_whole_word(&s.text[p.start..p.end], old)) {
                out.push(format!("`{old}` stays in a text or comment at {}:{}", s.path, s.lines.line(span.start)));
            }
        }
        out.truncate(20);
        out
    }
}
