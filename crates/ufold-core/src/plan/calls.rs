//! From copies to one function and its calls.
//!
//! Order of work: look at each copy by itself, pick a home, generalize, name, write. Copies that do not fit are left out
//! while enough remain. Fails (refuses) on anything it can't decide.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::align::{Aligned, Gap, Region, align_with_gap};
use crate::change::{Code, Edits, NewFunction, Outcome, Place, Reason, Site, Verdict};
use crate::index::spaces::opens_otherwise;
use crate::index::{Entity, Project};
use crate::lang::Leaving;
use crate::lang::MethodKind;
use crate::names::Source;
use crate::plan::general::{General, Misfit};
use crate::plan::given::{given_first, local_of};
use crate::plan::home::Home;
use crate::plan::imports::import_edit;
use crate::plan::in_sight;
use crate::plan::insertion::insertion;
use crate::plan::leading::{Leading, leading_comment};
use crate::plan::naming::function_names;
use crate::plan::parameter_names::parameter_names;
use crate::plan::parameters::Generalize;
use crate::plan::place::homes;
use crate::plan::region::{Portion, locate};
use crate::plan::render::Written;
use crate::plan::retire::{Retire, comments_that_go};
use crate::plan::told::{new_function, parameter_plans, remarks};
use crate::plan::top_level::{Seen, is_at_top, lost};
use crate::plan::types::Types;
use crate::plan::wishes::{Asked, Wishes, check_given, is_taken, wished_order};
use crate::plan::words::words;
use crate::text::{Edit, Span};
use crate::tree::{NodeId, Role, Tree};

/// Parameters that a function inside another one must spare to be put there unasked.
const FEWER_PARAMETERS: usize = 2;

/// What calling one function from exactly these copies would do, when at least so many of them fit.
pub(crate) fn planned(project: &Project, asked: Asked, fewest: usize) -> Outcome {
    let sources = match sources(project, asked) {
        Ok(s) => s,
        Err(reasons) => return Outcome::refused(reasons),
    };
    let mut left_out: Vec<(usize, Reason)> = Vec::new();
    let mut sites = Vec::new();
    let mut seen: FxHashMap<&str, Seen> = FxHashMap::default();
    for (i, place) in asked.copies.iter().enumerate().filter(|(i, _)| !asked.except.contains(&(i + 1))) {
        let site = locate(&sources[i], place).map_err(|r| vec![r]).and_then(|r| {
            if r.is_expression || !is_at_top(&r.source.tree, r.first) {
                return Portion::new(i + 1, r, &Seen::default());
            }
            let of_file = || Seen::of(project, r.source, asked.copies.len() > 1);
            Portion::new(i + 1, r, seen.entry(&r.source.path).or_insert_with(of_file))
        });
        match site {
            Ok(s) => sites.push(s),
            Err(reasons) => left_out.extend(reasons.into_iter().map(|r| (i + 1, r))),
        }
    }
    let folded = Calls { project, wishes: asked.wishes, fewest }.fold(sites, &mut left_out);
    let mut outcome = match folded {
        Ok(o) => o,
        Err(mut reasons) => {
            // the reasons of copies that were left out are why too few remain
            if reasons.is_empty() {
                reasons.extend(left_out.iter().map(|(_, r)| r.clone()));
                reasons.dedup();
            }
            if let Some(p) = asked.copies.first().filter(|_| reasons.is_empty()) {
                let message = format!("fewer than {fewest} copies are left to fold");
                let (file, line) = (p.file.clone(), p.start_line);
                reasons.push(Reason { code: Code::OneCopy, message, file, line });
            }
            Outcome::refused(reasons)
        }
    };
    outcome.left_out = left_out;
    outcome
}

fn sources(project: &Project, asked: Asked) -> Result<Vec<Arc<Source>>, Vec<Reason>> {
    asked.copies.iter().map(|p| project.source_at(p)).collect()
}

struct Calls<'a> {
    project: &'a Project<'a>,
    wishes: &'a Wishes,
    /// Sites that must remain.
    fewest: usize,
}

type LeftOut = Vec<(usize, Reason)>;

impl Calls<'_> {
    /// Folds what can be folded of the sites; an empty error means that too few remain.
    fn fold(&self, mut sites: Vec<Portion>, left_out: &mut LeftOut) -> Result<Outcome, Vec<Reason>> {
        self.drop_overlapping(&mut sites, left_out);
        loop {
            if sites.len() < self.fewest {
                return Err(Vec::new());
            }
            agree_on_leaving(&mut sites);
            match self.attempt(&sites) {
                Ok(outcome) => return Ok(outcome),
                Err(misfits) => {
                    let culprit = misfits.iter().find_map(|m| m.site).filter(|_| sites.len() > self.fewest.max(2));
                    let Some(s) = culprit.or_else(|| self.odd_one(&sites)) else {
                        return Err(misfits.into_iter().map(|m| m.reason).collect());
                    };
                    let reason = misfits.into_iter().next().map(|m| m.reason).expect("a failed attempt has a reason");
                    let gone = sites.remove(s);
                    let own = Reason {
                        file: gone.source().path.clone(),
                        line: gone.source().line(gone.region.first),
                        ..reason
                    };
                    left_out.push((gone.copy, own));
                }
            }
        }
    }

    fn drop_overlapping(&self, sites: &mut Vec<Portion>, left_out: &mut LeftOut) {
        let mut kept: Vec<Portion> = Vec::new();
        let mut taken: FxHashMap<String, Vec<Span>> = FxHashMap::default();
        for s in sites.drain(..) {
            let here = taken.entry(s.source().path.clone()).or_default();
            here.push(s.span);
            if here[..here.len() - 1].iter().any(|k| k.overlaps(s.span)) {
                here.pop();
                let r =
                    crate::change::reason(s.source(), s.region.first, Code::Overlap, "this copy overlaps another one");
                left_out.push((s.copy, r));
            } else {
                kept.push(s);
            }
        }
        *sites = kept;
    }

    /// A site that fits with none of the others while others fit with each other.
    fn odd_one(&self, sites: &[Portion]) -> Option<usize> {
        if sites.len() < 3 {
            return None;
        }
        let fits = |a: usize, b: usize| {
            let pair: Vec<&Portion> = vec![&sites[a], &sites[b]];
            self.generalizes(&pair)
        };
        let n = sites.len();
        let count = |i: usize| (0..n).filter(|j| *j != i && fits(i.min(*j), i.max(*j))).count();
        let counts: Vec<usize> = (0..n.min(12)).map(count).collect();
        let best = *counts.iter().max()?;
        let worst = (0..counts.len()).min_by_key(|i| counts[*i])?;
        (best > 0 && counts[worst] < n - 1).then_some(worst)
    }

    fn generalizes(&self, pair: &[&Portion]) -> bool {
        let regions: Vec<Region> = pair.iter().map(|s| s.region).collect();
        align_with_gap(&regions).is_some_and(|(a, _)| a.iter().filter(|x| x.differs).count() <= 24)
    }

    fn attempt(&self, sites: &[Portion]) -> Result<Outcome, Vec<Misfit>> {
        let all = |reasons: Vec<Reason>| -> Vec<Misfit> {
            reasons.into_iter().map(|reason| Misfit { reason, site: None }).collect()
        };
        let homes = homes(self.project, sites, self.wishes).map_err(all)?;
        let regions: Vec<Region> = sites.iter().map(|s| s.region).collect();
        let Some((aligned, gap)) = align_with_gap(&regions) else {
            let odd = (1..sites.len()).find(|i| align_with_gap(&[regions[0], regions[*i]]).is_none());
            let s = &sites[odd.unwrap_or(0)];
            let what = "the copies do not have the same statements";
            let reason = crate::change::reason(s.source(), s.region.first, Code::DifferentStatements, what);
            return Err(vec![Misfit { reason, site: odd }]);
        };
        let aligned = crate::plan::narrow_types::passed_whole(self.project, sites, aligned);
        if let Some(odd) = sites.iter().position(|s| s.leaving != sites[0].leaving) {
            let what = "the copies do not return or jump on the same paths";
            let s = &sites[odd];
            let reason = crate::change::reason(s.source(), s.region.first, Code::PartialReturn, what);
            return Err(vec![Misfit { reason, site: Some(odd) }]);
        }
        let mut misfits = Vec::new();
        let must_be_method = sites.iter().any(|s| s.needs_class().is_some());
        let homes: Vec<Home> = homes.into_iter().map(|h| with_statement(h, gap.as_ref(), sites)).collect();
        for home in &homes {
            if let Some(reason) = sites.iter().find_map(|s| outside_of_class(s, home)) {
                misfits.push(Misfit { reason, site: None });
                continue;
            }
            let as_method = home.takes_object();
            let others = homes.iter().any(|h| !h.takes_object());
            let nest = home.nest;
            let template = home.template;
            let (gap, flags, derive) = (gap.as_ref(), self.wishes.flags, self.wishes.derive);
            let (project, aligned) = (self.project, aligned.as_slice());
            let (class, handed) = (home.class.filter(|_| home.outside.is_none()), &home.handed);
            let g =
                Generalize { project, sites, aligned, template, as_method, class, handed, nest, gap, flags, derive };
            match g.run() {
                // a method that does not use its object is a function
                Ok(general) if as_method && !general.uses_receiver && !must_be_method && others => {}
                // what the function around gives without being passed makes the difference
                Ok(general) if self.nests_better(&homes, home, &general, &g) => {}
                Ok(general) => match self.write(sites, aligned, home, general) {
                    Ok(o) => return Ok(o),
                    Err(reason) => misfits.push(Misfit { reason, site: None }),
                },
                Err(m) => misfits.push(m),
            }
        }
        Err(misfits)
    }

    /// Whether a function inside the one around the sites would need far fewer parameters than one outside it.
    fn nests_better(&self, homes: &[Home], home: &Home, general: &General, g: &Generalize) -> bool {
        let inside = homes.iter().find(|h| h.nest.is_some()).filter(|_| home.nest.is_none() && home.class.is_none());
        let Some(inside) = inside else { return false };
        let nested = Generalize { nest: inside.nest, template: inside.template, as_method: false, ..*g };
        nested.run().is_ok_and(|n| n.parameters.len() + FEWER_PARAMETERS <= general.parameters.len())
    }

    fn write(
        &self,
        sites: &[Portion],
        aligned: &[Aligned],
        home: &Home,
        mut general: General,
    ) -> Result<Outcome, Reason> {
        let template = &sites[home.template];
        let source = template.source();
        let refuse = |code: Code, message: String| crate::change::reason(source, template.region.first, code, message);
        let count = general.parameters.len() + usize::from(general.optional.is_some());
        if count > self.wishes.most_parameters {
            return Err(refuse(Code::TooManyParameters, format!("the function would need {count} parameters")));
        }
        // a comment that another copy contradicts speaks of its own copy only
        let comments: Vec<_> = sites.iter().filter_map(leading_comment).collect();
        let comment = leading_comment(template).filter(|d| comments.iter().all(|c| c.text == d.text));
        let of_all = comment.as_ref().filter(|d| !d.heads_part).map(|d| d.text.as_str());
        let (name, is_named) = self.name(sites, home, &general, of_all, &refuse)?;
        let mut names = self.parameter_names(sites, aligned, home, &mut general, &name, &refuse)?;
        let types = Types { project: self.project, sites, aligned, home, wishes: self.wishes, name: &name };
        let types = match source.lang.needs_types() {
            true => Some(types.find(&general, &names)?),
            false => None,
        };
        if let Some(reason) = in_sight::missing(sites, home) {
            return Err(reason);
        }
        let retire = Retire { project: self.project, sites, aligned, home, general: &general, name: &name };
        let retired = retire.plan().filter(|_| home.outside.is_none());
        if retired.is_none() && self.wishes.parameters.is_none() {
            let typed = types.as_ref().map(|t| t.parameters.as_slice());
            general.given = given_first(sites, aligned, home.template, &general, typed);
            for i in &general.given {
                let local = local_of(template, aligned, home.template, &general.parameters[*i]);
                names[*i] = local.expect("such a parameter has a local").0;
            }
        }
        let written = Written {
            types: types.as_ref(),
            sites,
            aligned,
            home,
            general: &general,
            name: &name,
            parameter_names: &names,
            doc: self.wishes.doc.as_deref().or(of_all),
            heading: comment.as_ref().filter(|d| d.heads_part),
        };
        let text = written.function();
        let mut files = Edits::default();
        let gone = retired.as_ref().map_or(Vec::new(), |_| comments_that_go(sites));
        let plans = match retired {
            Some(mut r) => {
                r.put(sites, &text);
                self.retired_sites(sites, r, &mut files)
            }
            None => self.call_sites(&written, comment.as_ref(), &text, &mut files)?,
        };
        self.imports_of_types(&written, &mut files);
        self.imports(sites, home, &name, &plans, &mut files)
            .map_err(|path| refuse(Code::NoHome, format!("{path} can't import the new function")))?;
        let reasons = self.assumptions(&written)?;
        let (files, saves) = files.finish();
        Ok(Outcome {
            verdict: if reasons.is_empty() { Verdict::Ready } else { Verdict::Assumed },
            reasons,
            left_out: Vec::new(),
            remarks: [remarks(&written, count, is_named), gone].concat(),
            function: Some(NewFunction { unnamed: !is_named, ..new_function(&written, text) }),
            parameters: parameter_plans(&written),
            sites: plans,
            files,
            saves,
            links: Vec::new(),
        })
    }

    /// What must hold for the plan to be right; or why it can't be.
    fn assumptions(&self, w: &Written) -> Result<Vec<Reason>, Reason> {
        if let Some(r) = w.sites.iter().find_map(|s| crate::plan::narrow_types::narrowed_by_call(self.project, s)) {
            return Err(r);
        }
        let places = w.general.parameters.iter().flat_map(|p| &p.places).map(|i| w.aligned[*i].nodes[w.home.template]);
        let passed: Vec<NodeId> = places.collect();
        if let Some(r) = crate::plan::narrow_types::told_before(self.project, &w.sites[w.home.template], &passed) {
            return Err(r);
        }
        let kept = |i: usize, b: crate::names::BindingId| w.general.results.get(i).is_some_and(|r| r.contains(&b));
        let mut out = [&w.home.assumptions[..], &w.general.assumptions[..]].concat();
        out.extend(w.types.iter().flat_map(|t| t.assumptions.clone()));
        out.extend(crate::plan::class_home::inherited_name(self.project, w.home, w.sites, w.name));
        out.extend(crate::plan::mode::changed(w.sites, w.home)?);
        out.extend(self.stack_seen(w.sites));
        out.extend(lost(w.sites.iter().map(|s| (s.source(), s.region.first, s.gone.as_slice()))));
        out.extend(self.replaced_by_name(w.sites, w.home));
        out.extend(crate::plan::new_name::seen(self.project, w.template(), w.home, w.is_async(), w.name));
        out.extend(crate::plan::inner::moved(self.project, w.sites, w.home)?);
        out.extend(crate::plan::lifetime::let_go(self.project, w.sites, &kept));
        out.extend(crate::plan::managers::swallowed(self.project, w.sites)?);
        // one word on each, at its first place
        let mut said: FxHashSet<(Code, String, String)> = FxHashSet::default();
        out.retain(|r| said.insert((r.code, r.message.clone(), r.file.clone())));
        Ok(out)
    }

    /// A function that the code calls looks at those above it, and would find one more.
    fn stack_seen(&self, sites: &[Portion]) -> Option<Reason> {
        let lookers = crate::index::unseen::lookers(self.project, sites[0].source().lang);
        let inside = |s: &Portion| (s.region.first.0..s.region.end().0).map(NodeId);
        sites.iter().find_map(|s| lookers.seen_from(s.source(), inside(s)))
    }

    /// Code that moves to another module no longer sees what is put in its old module's names from outside.
    fn replaced_by_name(&self, sites: &[Portion], home: &Home) -> Vec<Reason> {
        let mut out: Vec<Reason> = Vec::new();
        for site in sites.iter().filter(|s| s.source().path != home.source(sites).path) {
            let s = site.source();
            let file = self.project.index(&s.path).expect("a site's file was scanned");
            for r in s.names.in_range(site.region.first, site.region.end()) {
                let name = s.str(r.node);
                // a name that the module only sees may be put into it, too
                let of_module = r.target.is_none_or(|b| s.names.binding(b).scope == crate::names::Names::MODULE);
                if of_module && self.project.named_by_string(file, name) {
                    let message = format!("nothing replaces `{name}` in this module, though a string names it");
                    out.push(crate::change::reason(s, r.node, Code::NamedByString, message));
                    break;
                }
            }
        }
        out
    }

    /// The person's names, or derived ones that nothing in the body uses.
    fn parameter_names(
        &self,
        sites: &[Portion],
        aligned: &[Aligned],
        home: &Home,
        general: &mut General,
        name: &str,
        refuse: &dyn Fn(Code, String) -> Reason,
    ) -> Result<Vec<String>, Reason> {
        let template = &sites[home.template];
        let mut taken = taken_outside_holes(template, aligned, general, home.template);
        taken.insert(name.to_string());
        let names = parameter_names(sites, aligned, home.template, general, &taken);
        let Some(given) = &self.wishes.parameters else { return Ok(names) };
        let wrong = |m: String| refuse(Code::BadParameters, m);
        let mut names = names;
        if let Some(order) = wished_order(given, &names, general.parameters.len()).map_err(wrong)? {
            let old: Vec<String> = names.clone();
            let mut parameters: Vec<Option<_>> =
                std::mem::take(&mut general.parameters).into_iter().map(Some).collect();
            general.parameters = order.iter().filter_map(|i| parameters[*i].take()).collect();
            order.iter().enumerate().for_each(|(to, from)| names[to].clone_from(&old[*from]));
        }
        let used = given.iter().zip(&names).find(|(g, n)| g != n && taken.contains(*g));
        if let Some((g, _)) = used {
            return Err(refuse(Code::BadParameters, format!("`{g}` is already in use in the code")));
        }
        check_given(given, &names, general, template.source()).map_err(|m| refuse(Code::BadParameters, m))?;
        Ok(given.clone())
    }

    /// The functions go; their calls are rewritten.
    fn retired_sites(&self, sites: &[Portion], plan: crate::plan::retire::Retirement, files: &mut Edits) -> Vec<Site> {
        plan.edits.into_iter().for_each(|e| files.add(sites[0].source(), e));
        let pairs = sites.iter().zip(plan.sites);
        pairs.map(|(s, (gone, call))| Site { retired: Some(gone), ..self.site_plan(s, call, Vec::new()) }).collect()
    }

    /// A call in the place of each copy, and the definition at its home.
    fn call_sites(
        &self,
        w: &Written,
        doc: Option<&Leading>,
        text: &str,
        files: &mut Edits,
    ) -> Result<Vec<Site>, Reason> {
        let source = w.home.source(w.sites);
        let mut plans = Vec::new();
        for (i, site) in w.sites.iter().enumerate() {
            let (mut call, results) = w.call(i);
            if goes_on(site, &call) {
                call.push(';');
            }
            let own = leading_comment(site).filter(|l| doc.is_some_and(|d| d.text == l.text));
            let start = own.map_or(site.span.start, |l| l.start);
            files.add(site.source(), Edit::new(start, site.span.end, call.clone()));
            plans.push(self.site_plan(site, call, results));
        }
        if w.home.outside.is_some() {
            let edits = crate::plan::outside::edits(self.project, w.home, w.sites, text)?;
            edits.into_iter().for_each(|e| files.add(source, e));
            return Ok(plans);
        }
        let at_home: Vec<&Portion> = w.sites.iter().filter(|s| s.source().path == source.path).collect();
        files.add(source, insertion(source, w.home, &at_home, text));
        Ok(plans)
    }

    fn site_plan(&self, site: &Portion, call: String, results: Vec<String>) -> Site {
        let s = site.source();
        Site {
            copy: site.copy,
            place: Place {
                file: s.path.clone(),
                start_line: s.lines.line(site.span.start),
                end_line: s.lines.line(site.span.end.max(1) - 1),
                start_byte: site.span.start,
                end_byte: site.span.end,
            },
            within: site.within(),
            call,
            results,
            returns: !site.flow.falls_through || site.leaving == Leaving::Tail,
            retired: None,
        }
    }

    /// What the types of the parameters need in the home's file.
    fn imports_of_types(&self, w: &Written, files: &mut Edits) {
        let to = w.home.source(w.sites);
        let mut lines: Vec<(String, String)> = Vec::new();
        for of_type in w.types.iter().flat_map(|t| &t.parameters) {
            lines.extend(
                to.lang.imports_for_type(to, of_type).into_iter().filter(|l| !lines.contains(l)).collect::<Vec<_>>(),
            );
        }
        let texts: Vec<&str> = lines.iter().map(|l| l.0.as_str()).collect();
        if let Some(edit) = lines.last().and_then(|l| crate::plan::imports::add_import(to, &texts.join("\n"), &l.1)) {
            files.add(to, edit);
        }
    }

    fn imports(
        &self,
        sites: &[Portion],
        home: &Home,
        name: &str,
        plans: &[Site],
        files: &mut Edits,
    ) -> Result<(), String> {
        let mut seen: FxHashSet<&str> = FxHashSet::default();
        let mut exported = false;
        for site in sites {
            let s = site.source();
            if s.path != home.source(sites).path && seen.insert(&s.path) {
                let name = home.called_by.as_deref().unwrap_or(name);
                let seen = Entity::Member(home.file, name.to_string());
                let by_loading = home.class.is_none() && s.lang.shares_by_loading();
                let reached = home.called_by.is_none() || self.project.entity(s, name) == seen;
                let p = self.project;
                let changes = || p.index(&s.path).is_none_or(|here| opens_otherwise(p.facts, home.file, here));
                if !reached && s.name_spaces().is_some() && changes() {
                    return Err(s.path.clone());
                }
                let edit = match by_loading || home.class.is_some() && reached {
                    true => None,
                    false => Some(import_edit(self.project, s, home.file, name).ok_or_else(|| s.path.clone())?),
                };
                let here = || plans.iter().filter(|p| p.place.file == s.path);
                let replaced: Vec<Span> = here().map(|p| Span::new(p.place.start_byte, p.place.end_byte)).collect();
                let calls: Vec<&str> = here().map(|p| p.call.as_str()).collect();
                let gone = crate::plan::unneeded::edits(self.project, s, home.file, &replaced, &calls);
                crate::plan::unneeded::joined(s, edit, gone).into_iter().for_each(|e| files.add(s, e));
                if home.class.is_some() {
                    continue;
                }
                let to = home.source(sites);
                if let Some(line) = to.lang.export_line(to, sites[home.template].source(), name).filter(|_| !exported) {
                    let end = to.lang.exports_at(to);
                    let line = if end == 0 { format!("{line}\n") } else { format!("\n{line}") };
                    files.add(to, Edit::new(end, end, line));
                    exported = true;
                }
            }
        }
        Ok(())
    }

    /// A name that nothing at the home or at any site uses.
    fn name(
        &self,
        sites: &[Portion],
        home: &Home,
        general: &General,
        comment: Option<&str>,
        refuse: &dyn Fn(Code, String) -> Reason,
    ) -> Result<(String, bool), Reason> {
        let template = &sites[home.template];
        let lang = template.source().lang;
        let one_file = sites.iter().all(|s| s.source().path == home.source(sites).path);
        let free = |name: &str| {
            let in_sites = is_taken(sites, name, home.class.is_some());
            // a member is looked up by name in all classes around it, a public name may be imported with all others
            let seen_by_all = home.class.is_some() || !one_file;
            let elsewhere = seen_by_all && self.project.word_elsewhere(name, &[]);
            lang.is_identifier(name) && !lang.is_builtin(name) && !in_sites && !elsewhere
        };
        if let Some(given) = &self.wishes.name {
            if !lang.is_identifier(given) {
                return Err(refuse(Code::BadName, format!("`{given}` is no name for a function")));
            }
            return if free(given) {
                Ok((given.clone(), true))
            } else {
                Err(refuse(Code::NameTaken, format!("the name `{given}` is already in use")))
            };
        }
        let styled = |n: &String| lang.function_name(&words(n), one_file, home.class.is_some());
        let candidates = function_names(sites, home.template, general, comment);
        if let Some(good) = candidates.good.iter().map(styled).find(|n| free(n)) {
            return Ok((good, true));
        }
        let named = candidates.weak.iter().map(styled).find(|n| free(n));
        let last = candidates.weak.first().map(styled).unwrap_or_default();
        named
            .or_else(|| (2..100).map(|i| format!("{last}_{i}")).find(|n| free(n)))
            .map(|n| (n, false))
            .ok_or_else(|| refuse(Code::NameTaken, "no free name was found; give one with --name".into()))
    }
}

/// The body is taken from a copy that has the statement which some lack.
fn with_statement(home: Home, gap: Option<&Gap>, sites: &[Portion]) -> Home {
    let Some(gap) = gap else { return home };
    let path = &sites[home.template].source().path;
    let has = |i: &usize| gap.nodes[*i].is_some() && sites[*i].source().path == *path;
    let template = std::iter::once(home.template).chain(0..sites.len()).find(has).unwrap_or(home.template);
    Home { template, ..home }
}

/// The shortest way of leaving that all sites can write.
fn agree_on_leaving(sites: &mut [Portion]) {
    let common = |w: &Leaving| sites.iter().all(|s| s.ways.contains(w));
    if let Some(way) = sites[0].ways.iter().copied().find(common) {
        sites.iter_mut().for_each(|s| s.leaving = way);
    }
}

/// Names in the template's body that stay after the holes are filled, and its object's.
fn taken_outside_holes(template: &Portion, aligned: &[Aligned], general: &General, index: usize) -> FxHashSet<String> {
    let (s, t) = (template.source(), &template.source().tree);
    let passed_on = general.optional.as_ref().filter(|o| !o.is_flag).map(|o| o.statement);
    let places = general.parameters.iter().flat_map(|p| &p.places).map(|i| aligned[*i].nodes[index]);
    let holes: Vec<NodeId> = places.chain(passed_on).collect();
    let region = (template.region.first.0..template.region.end().0).map(NodeId);
    let stays = |n: &NodeId| t.role(*n) == Role::Name && !holes.iter().any(|h| t.contains(*h, *n));
    let mut taken: FxHashSet<String> = region.filter(stays).map(|n| s.str(n).to_string()).collect();
    taken.extend(template.receiver().map(|r| s.names.binding(r).name.clone()));
    taken
}

/// A word that means the class around it, in a function that would stand outside of it, or not know the object.
fn outside_of_class(site: &Portion, home: &Home) -> Option<Reason> {
    // code that has no object asks its class for nothing else than a function there has
    let without = site.method.is_some_and(|m| m.kind == MethodKind::Static);
    let same = home.is_static && without && site.source().lang.keeps_to_class();
    let at = site.needs_class().filter(|_| !home.takes_object() && !same)?;
    let inside = home.class.is_some() || home.nest.is_some();
    let n = site.asks_above().or((!inside).then_some(at))?;
    let message = format!("`{}` means its class, and a function has none", site.source().str(n));
    Some(crate::change::reason(site.source(), n, Code::NeedsClass, message))
}

/// What follows a site would be read as a part of its call.
fn goes_on(site: &Portion, call: &str) -> bool {
    let (s, t) = (site.source(), &site.source().tree);
    let next = t.children(t.parent(site.region.first).unwrap_or(Tree::ROOT)).find(|n| *n >= site.region.end());
    let text = next.map_or("", |n| s.str(n));
    !site.region.is_expression && call.ends_with(')') && s.lang.goes_on_with(text)
}
