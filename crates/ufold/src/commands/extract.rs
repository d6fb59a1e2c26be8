//! `extract`: a region that a person points at, and its other copies, become a function.

use ufold_core::names::Source;
use ufold_core::step::{Form, Project, Request, copies_of, place_of, plan_extract, resolve};
use ufold_core::text::Span;
use ufold_project::Error;
use ufold_project::files::Disk;

use super::step;
use crate::args::{Extract, FormFlag};
use crate::session::Session;

pub fn run(s: &Session, a: &Extract) -> anyhow::Result<u8> {
    let typed = Typed::parse(&a.range)?;
    let path = s.path(&typed.path)?;
    let scanned = s.scan(&[])?;
    let disk = Disk(&s.root);
    let project = Project::new(&scanned.facts, &disk);
    let source = project
        .index(&path)
        .ok_or_else(|| Error::Usage(format!("{path} is no source file of the project")))
        .and_then(|f| project.source(f).map_err(Error::Environment))?;
    if !source.lang.is_identifier(&a.name) {
        Err(Error::Usage(format!("`{}` is no name for a function", a.name)))?;
    }
    let place = place_of(&source, typed.span(&source)?);
    let form = a.form.map(|f| match f {
        FormFlag::Function => Form::Function,
        FormFlag::Method => Form::Method,
        FormFlag::Nested => Form::Nested,
    });
    let mut request = Request {
        finding: format!("{path}:{}", place.start_line),
        copies: vec![place],
        name: Some(a.name.clone()),
        into: a.choice.into.clone(),
        form,
        types: a.choice.types.iter().cloned().collect(),
        whole: true,
        most_parameters: a.choice.most_parameters,
        ..Request::default()
    };
    let others = copies_of(&project, &request, a.everywhere);
    request.copies.extend(others.joining);
    step::check_numbers(&a.choice, request.copies.len())?;
    request.except = a.choice.left_out(request.copies.len());
    for (n, c) in request.copies.iter().enumerate().skip(1) {
        s.remark(&format!("copy {}: {}:{}-{}", n + 1, c.file, c.start_line, c.end_line));
    }
    for c in &others.differing {
        s.remark(&format!(
            "alike, but it needs a parameter more: {0}:{1}-{2}; see `ufold show {0}:{1}`",
            c.file, c.start_line, c.end_line
        ));
    }
    let plan = plan_extract(&project, &request);
    step::save(s, &plan, a.save_plan.as_deref())?;
    step::carry_out(s, &plan, &a.step)
}

/// `path:12-20`, `path:12` or `path:12:5-14:30`.
struct Typed {
    path: String,
    from: (usize, Option<usize>),
    to: (usize, Option<usize>),
}

impl Typed {
    fn parse(typed: &str) -> Result<Typed, Error> {
        let wrong = || Error::Usage(format!("{typed} is no FILE:RANGE such as fees.py:12-20 or fees.py:12:5-14:30"));
        let pattern = regex::Regex::new(r"^(.+?):(\d+)(?::(\d+))?(?:-(\d+)(?::(\d+))?)?$").expect("a fixed pattern");
        let c = pattern.captures(typed).ok_or_else(wrong)?;
        let number = |i: usize| c.get(i).and_then(|m| m.as_str().parse::<usize>().ok());
        let first = number(2).filter(|n| *n > 0).ok_or_else(wrong)?;
        let (from, to) = ((first, number(3)), (number(4).unwrap_or(first), number(5)));
        if from.1.is_some() != to.1.is_some() || to < from {
            return Err(wrong());
        }
        Ok(Typed { path: c[1].to_string(), from, to })
    }

    fn span(&self, source: &Source) -> Result<Span, Error> {
        let (text, lines) = (&source.text, &source.lines);
        let outside = || Error::Usage(format!("{} has no such lines", source.path));
        let start = lines.byte_at(text, self.from.0, self.from.1.unwrap_or(1)).ok_or_else(outside)?;
        let end = match self.to.1 {
            Some(column) => lines.byte_at(text, self.to.0, column).ok_or_else(outside)?,
            None => lines.start_of(self.to.0 + 1).unwrap_or(text.len()),
        };
        if self.to.0 > lines.count(text) {
            return Err(outside());
        }
        resolve(source, Span::new(start, end.max(start))).map_err(|half| {
            let near = half.nearest.iter().map(|n| {
                let (a, z) = (lines.position(text, n.start), lines.position(text, n.end));
                format!("{}:{}:{}-{}:{}", source.path, a.0, a.1, z.0, z.1)
            });
            let near: Vec<String> = near.collect();
            let hint =
                if near.is_empty() { String::new() } else { format!("; the nearest are {}", near.join(" and ")) };
            Error::Usage(format!("the range covers no whole statements and no whole expression{hint}"))
        })
    }
}
