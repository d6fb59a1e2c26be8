//! `extract`: a region that a person points at, and its other copies, become a function.

use ufold_core::change::place_of;
use ufold_core::index::Project;
use ufold_core::plan::{Form, Wishes};
use ufold_core::step::{ExtractRequest, QueryRequest, Request, VariableRequest, copies_of, plan};
use ufold_project::Error;
use ufold_project::files::Disk;

use super::{Ranged, pointed, step};
use crate::args::{Extract, FormFlag};
use crate::output::{place as place_of_line, places, quoted};
use crate::session::{Session, has_finding};

pub fn run(s: &Session, a: &Extract) -> anyhow::Result<u8> {
    let typed = Ranged::parse(&s.expanded(&a.range))?;
    let scanned = s.scan(&[])?;
    let disk = Disk::new(&s.root, &scanned);
    let project = Project::new(&scanned.facts, &disk);
    let source = pointed::source(s, &project, &typed.path)?;
    if !source.lang.is_identifier(&a.name) {
        Err(Error::Usage(format!("`{}` can't be a name", a.name)))?;
    }
    let place = place_of(&source, typed.covered(&source)?);
    if a.variable {
        let finding = place_of_line(&source.path, place.start_line);
        let request = VariableRequest { finding, place, name: pointed::as_variable(source.lang, &a.name) };
        let plan = plan(&project, &Request::Variable(request));
        step::save(s, &plan, a.save_plan.as_deref())?;
        return step::carry_out(s, &plan, &a.step);
    }
    let form = a.form.map(|f| match f {
        FormFlag::Function => Form::Function,
        FormFlag::Method => Form::Method,
        FormFlag::Nested => Form::Nested,
    });
    let function = Wishes { name: Some(a.name.clone()), form, ..a.choice.wishes() };
    let finding = place_of_line(&source.path, place.start_line);
    if a.query {
        let plan = plan(&project, &Request::Query(QueryRequest { finding, place, function }));
        step::save(s, &plan, a.save_plan.as_deref())?;
        return step::carry_out(s, &plan, &a.step);
    }
    let mut request = ExtractRequest { finding, copies: vec![place], except: Vec::new(), function };
    let others = copies_of(&project, &request, a.everywhere);
    request.copies.extend(others.joining);
    step::check_numbers(&a.choice.sites, request.copies.len(), "copy", "copies")?;
    request.except = a.choice.sites.left_out(request.copies.len());
    for (n, c) in request.copies.iter().enumerate().skip(1) {
        s.remark(&format!("copy {}: {}", n + 1, places(&c.file, c.start_line, c.end_line)));
    }
    for c in &others.differing {
        let place = quoted(&place_of_line(&c.file, c.start_line));
        let found = has_finding(s, &scanned, &c.file, c.start_line as u32);
        let hint = if found { format!("; see `ufold show {place}`") } else { String::new() };
        let lines = places(&c.file, c.start_line, c.end_line);
        s.remark(&format!("alike, but it needs a parameter more: {lines}{hint}"));
    }
    let plan = plan(&project, &Request::Extract(request));
    step::save(s, &plan, a.save_plan.as_deref())?;
    step::carry_out(s, &plan, &a.step)
}
