//! The plan of a members finding: into the class that all of its classes extend, else into a new one.

use ufold_core::change::{Code, Outcome, Place, Reason, Verdict};
use ufold_core::find::Finding;
use ufold_core::index::Project;
use ufold_core::plan::Wishes;
use ufold_core::step::{
    LiftRequest, Plan, Request, file_for_base, member_around, members_but_values, members_of, name_for_base, plan,
};
use ufold_project::files::{Disk, Scanned};

use crate::output::quoted;
use crate::session::{Session, place};

/// `copies`: where in each class the members begin.
pub fn lift(project: &Project, finding: &str, copies: &[Place], wishes: &Wishes) -> Plan {
    let places = members_of(project, copies);
    if places.is_empty() {
        let request = LiftRequest { finding: finding.to_string(), places: copies.to_vec(), ..Default::default() };
        let first = &copies[0];
        let message = "these are the classes' own, and no object has them: a base would only be a place for them";
        let (file, line) = (first.file.clone(), first.start_line);
        let reason = Reason { code: Code::LittleGain, message: message.into(), file, line };
        return Plan::new(Request::Lift(request), Outcome::refused(vec![reason]));
    }
    let (new_base, to, into) = (wishes.name.clone(), wishes.class.clone(), wishes.into.clone());
    let request =
        LiftRequest { finding: finding.to_string(), places, to, new_base, into, narrow: true, values: Vec::new() };
    if request.new_base.is_some() {
        let into = request.into.clone();
        let into = into.or_else(|| file_for_base(project, &request.places, request.new_base.as_deref()?));
        return plan(project, &Request::Lift(LiftRequest { into, ..request }));
    }
    let there = plan(project, &Request::Lift(LiftRequest { into: None, ..request.clone() }));
    let no_base = there.result.reasons.iter().any(|r| r.code == Code::NoHome);
    if there.result.verdict != Verdict::Refused || !no_base || request.to.is_some() {
        return there;
    }
    let (name, says) = name_for_base(project, &request.places);
    let into = request.into.clone().or_else(|| file_for_base(project, &request.places, &name));
    let mut made = plan(project, &Request::Lift(LiftRequest { new_base: Some(name), into, ..request }));
    if let Some(f) = made.result.function.as_mut().filter(|_| !says) {
        f.unnamed = true;
    }
    made
}

/// What takes copies that are members of classes to a base, where they differ in values alone: each class keeps its own.
pub fn instead(project: &Project, copies: &[Place]) -> Option<String> {
    let own: Vec<(Place, String)> = copies.iter().map(|c| member_around(project, c)).collect::<Option<_>>()?;
    let places = members_but_values(project, &[own[0].0.clone()], false)?;
    if own.iter().any(|(p, _)| !places.contains(p)) || own.iter().skip(1).any(|o| o.1 == own[0].1) {
        return None;
    }
    let typed = quoted(&format!("{}:{}", own[0].0.file, own[0].1));
    let request = LiftRequest { finding: typed.clone(), places, values: vec![String::new()], ..LiftRequest::default() };
    let goes = |r: &LiftRequest| plan(project, &Request::Lift(r.clone())).result.verdict != Verdict::Refused;
    if goes(&request) {
        return Some(format!("ufold lift {typed}"));
    }
    let (name, _) = name_for_base(project, &request.places);
    let into = file_for_base(project, &request.places, &name);
    let made = LiftRequest { new_base: Some(name.clone()), into, ..request };
    goes(&made).then(|| format!("ufold lift {typed} --new-base {name}"))
}

/// Whether the members of a finding can go to a base.
pub fn can_go(s: &Session, scanned: &Scanned, f: &Finding) -> bool {
    let disk = Disk::new(s.root(), scanned);
    let project = Project::new(&scanned.facts, &disk);
    let copies: Vec<Place> = f.copies.iter().map(|c| place(&scanned.facts, c)).collect();
    lift(&project, &f.id, &copies, &Wishes::default()).result.verdict != Verdict::Refused
}
