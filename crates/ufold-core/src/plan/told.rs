//! What a plan tells of the function that it makes: its name and text, its parameters, and what a reader should know.

use crate::change::{NewFunction, ParameterPlan};
use crate::lang::Reach;
use crate::plan::derived::offers;
use crate::plan::region::Portion;
use crate::plan::render::Written;

/// Over this many parameters a plan says so.
const MANY_PARAMETERS: usize = 4;

pub(crate) fn remarks(written: &Written, count: usize, is_named: bool) -> Vec<String> {
    let mut out = Vec::new();
    if !is_named {
        out.push(format!("`{}` is only called so for want of a good name; give one with --name", written.name));
    }
    if written.home.reach == Reach::All {
        out.push(format!("`{}` is open to all code: copies stand in several packages", written.name));
    }
    if count > MANY_PARAMETERS {
        out.push(format!("the function takes {count} parameters; a shorter range of the copies may need fewer"));
    }
    if written.general.results.len() > 1 {
        out.push(format!("the function hands over {} results", written.general.results.len()));
    }
    for o in offers(&written.general.parameters, written.sites) {
        let names = written.parameter_names;
        let lang = written.sites[written.home.template].source().lang;
        let text = lang.write_derived(&names[o.from], o.how);
        out.push(format!("`{}` is `{text}` in all copies; --derive computes it", names[o.derived]));
    }
    let comments = |s: &Portion| -> Vec<String> {
        let source = s.source();
        let inside = source.tree.comments().iter().filter(|c| s.span.contains(**c));
        inside.map(|c| source.lang.comment_text(&source.text[c.start..c.end]).to_string()).collect()
    };
    let kept = comments(&written.sites[written.home.template]);
    for s in written.sites {
        for c in comments(s).into_iter().filter(|c| !kept.contains(c)) {
            out.push(crate::change::lost_comment(&c, s.copy));
        }
    }
    out
}

pub(crate) fn new_function(written: &Written, text: String) -> NewFunction {
    let template = &written.sites[written.home.template];
    // empty for one without a name
    let home = written.home.source(written.sites);
    let class = written.home.class.map(|c| home.tree.child(c, crate::tree::Field::Name));
    NewFunction {
        unnamed: false,
        name: written.name.to_string(),
        file: written.home.source(written.sites).path.clone(),
        class: class.map(|n| n.map_or(String::new(), |n| home.str(n).to_string())),
        nested: written.home.nest.is_some(),
        text,
        from_copy: template.copy,
        results: written.result_names(written.home.template),
        given: written.general.given.len(),
        bundle: written.bundle().map(|b| b.name.clone()),
        function_types: types_of_functions(written),
        returns: !template.flow.falls_through,
    }
}

fn types_of_functions(written: &Written) -> Vec<String> {
    let all = written.types.iter().flat_map(|t| &t.functions).map(|(_, f)| f.name.clone());
    let mut out: Vec<String> = all.collect();
    out.sort();
    out.dedup();
    out
}

pub(crate) fn parameter_plans(written: &Written) -> Vec<ParameterPlan> {
    let holes = written.holes();
    let of = |i: usize| holes.iter().filter(|(_, p)| *p == i).map(|(s, _)| *s).collect();
    let list = written.general.parameters.iter().zip(written.parameter_names).enumerate();
    let plan = list.map(|(i, (p, name))| ParameterPlan {
        name: name.clone(),
        arguments: p.arguments.clone(),
        holes: of(i),
        is_function: p.callable.is_some(),
    });
    let tree = &written.sites[written.home.template].source().tree;
    let last = written.optional().map(|(o, name)| ParameterPlan {
        name: name.to_string(),
        arguments: o.arguments.iter().map(|a| a.clone().unwrap_or_default()).collect(),
        holes: vec![tree.span(o.statement)],
        is_function: !o.is_flag,
    });
    plan.chain(last).collect()
}
