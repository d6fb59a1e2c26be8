//! From aligned copies to parameters: which places are holes, what each site passes, which locals are handed in and out.
//!
//! A difference widens to the smallest expression around it that stands where a value is read. Names are compared by
//! what they mean, not by how they are spelled: a local that every copy binds itself is a renaming, a name that means
//! the same everywhere stays, all else becomes an argument.

use rustc_hash::FxHashSet;

use crate::align::{Aligned, Gap};
use crate::change::{Code, Reason, reason};
use crate::index::declared::{is_type_parameter, type_parameter};
use crate::index::inherited::{self, Inherited};
use crate::index::{Entity, Project};
use crate::names::{BindKind, BindingId, Names, Reference, Space};
use crate::plan::callable::{Callable, MOST_CALLABLES, add};
use crate::plan::derived::derive;
use crate::plan::evaluate::{Purity, may_be_early, moments, purity};
use crate::plan::general::{General, Misfit, NamesSeen, Optional, Parameter, TypeHole, is_for_effect};
use crate::plan::optional::{as_flag, as_function};
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// What a name node means to its copy.
#[derive(PartialEq, Eq, Hash, Clone)]
enum Meaning {
    /// A variable that the new function will see where it stands.
    Shared(BindingId),
    Local(BindingId),
    Inner(BindingId),
    Outer(Entity),
}

pub struct Generalize<'a> {
    pub project: &'a Project<'a>,
    pub sites: &'a [Portion<'a>],
    pub aligned: &'a [Aligned],
    /// Index of the site whose text becomes the body.
    pub template: usize,
    /// The receiver need not be passed.
    pub as_method: bool,
    /// The class that will hold the new function.
    pub class: Option<NodeId>,
    /// Names that it hands down to the copies' classes.
    pub handed: &'a FxHashSet<(usize, NodeId)>,
    /// The function that will hold the new one, whose variables need not be passed.
    pub nest: Option<NodeId>,
    /// A statement that some copies lack.
    pub gap: Option<&'a Gap>,
    /// It is run by a flag.
    pub flags: bool,
    /// What follows from another parameter is computed.
    pub derive: bool,
}

type Found<T> = Result<T, Misfit>;

impl Generalize<'_> {
    pub fn run(&self) -> Found<General> {
        self.same_imports()?;
        let mut roots: FxHashSet<usize> = FxHashSet::default();
        let mut types: FxHashSet<usize> = FxHashSet::default();
        for i in (0..self.aligned.len()).filter(|i| self.aligned[*i].differs && !self.is_name(*i)) {
            if let Some(place) = self.type_place(i) {
                types.insert(place);
                continue;
            }
            let root = self.root(i)?;
            roots.insert(self.with_its_scope(root));
        }
        self.outermost(&mut roots);
        let mut names = NamesSeen::new(self.sites.len());
        for i in 0..self.aligned.len() {
            let open = self.is_name(i) && !self.below(i, &roots) && !self.below(i, &types);
            if !open || !self.is_hole_name(i, &mut names)? {
                continue;
            }
            match self.type_place(i) {
                Some(place) => types.insert(place),
                None => roots.insert(self.root(i)?),
            };
        }
        self.outermost(&mut roots);
        let variables = &names.variables;
        let type_holes = self.typed(types, &roots, &names)?;
        let (mut parameters, assumptions) = self.holes(&roots, &names)?;
        let handed_in = |v: &Vec<BindingId>| (0..v.len()).any(|s| self.sites[s].flow.ins.contains(&v[s]));
        for (v, places) in variables.iter().filter(|(v, _)| handed_in(v)) {
            let arguments = (0..v.len()).map(|s| self.sites[s].source().names.binding(v[s]).name.clone()).collect();
            let variable = Some(v.clone());
            parameters.push(Parameter { places: places.clone(), variable, ..Parameter::new(places[0], arguments) });
        }
        self.all_bound_before(&parameters)?;
        parameters.sort_by_key(|p| p.places[0]);
        if self.derive {
            derive(&mut parameters, self.sites);
        }
        let handed_out = |v: &Vec<BindingId>| (0..v.len()).any(|s| self.sites[s].flow.outs.contains(&v[s]));
        let results = variables.iter().filter(|(v, _)| handed_out(v)).map(|(v, _)| v.clone()).collect();
        let optional = self.gap.map(|g| self.optional(g, &names)).transpose()?;
        let (uses_receiver, generics) = (names.uses_receiver, names.generics);
        Ok(General {
            parameters,
            results,
            assumptions,
            uses_receiver,
            generics,
            type_holes,
            optional,
            given: Vec::new(),
        })
    }

    /// Type parameters for the types in which the copies differ, those in arguments left out.
    fn typed(&self, mut types: FxHashSet<usize>, roots: &FxHashSet<usize>, names: &NamesSeen) -> Found<Vec<TypeHole>> {
        types.retain(|i| !self.below(*i, roots));
        self.outermost(&mut types);
        let mut places: Vec<usize> = types.into_iter().collect();
        places.sort_unstable();
        let few = self.type_holes(&places).filter(|h| h.is_empty() || names.generics.is_empty());
        few.ok_or_else(|| {
            let what = "the copies differ here in types that no type parameter can stand for";
            self.misfit(places[0], Code::HoleNoValue, what, None)
        })
    }

    /// What is imported is no name that could be another one.
    fn same_imports(&self) -> Found<()> {
        let exact = |s: usize, i: usize| self.sites[s].source().tree.exact(self.node(s, i));
        let other = |i: &usize| {
            let import = matches!(self.role(0, *i), Role::Import | Role::ImportFrom);
            import && (1..self.sites.len()).any(|s| exact(s, *i) != exact(0, *i))
        };
        match (0..self.aligned.len()).find(other) {
            Some(i) => Err(self.misfit(i, Code::HoleNoValue, "the copies import different things here", None)),
            None => Ok(()),
        }
    }

    /// The parameter for a statement that some copies lack.
    fn optional(&self, gap: &Gap, names: &NamesSeen) -> Found<Optional> {
        let travels = Callable { sites: self.sites, aligned: self.aligned, template: self.template, names };
        let found = match self.flags || !self.sites[0].source().lang.passes_fewer_arguments() {
            true => as_flag(gap, self.sites, self.template, names),
            false => as_function(gap, &travels),
        };
        found.ok_or_else(|| {
            let site = gap.nodes.iter().position(Option::is_some).unwrap_or(0);
            let node = gap.nodes[site].unwrap_or(self.sites[site].region.first);
            let what = "some copies lack this statement, and it can't be handed to the function";
            Misfit { reason: reason(self.sites[site].source(), node, Code::DifferentStatements, what), site: None }
        })
    }

    /// Whether a name must be passed: it is no local of the copies, not the object, and no name that means the same
    /// everywhere. Locals that the copies bind are noted as renamings.
    fn is_hole_name(&self, i: usize, seen: &mut NamesSeen) -> Found<bool> {
        let meanings: Vec<Meaning> = (0..self.sites.len()).map(|s| self.meaning(s, i)).collect();
        let locals: Vec<BindingId> = meanings.iter().filter_map(own_binding).collect();
        let bound_here = (0..self.sites.len()).any(|s| match &meanings[s] {
            Meaning::Local(b) => self.sites[s].is_written(*b),
            Meaning::Inner(_) => true,
            Meaning::Outer(_) | Meaning::Shared(_) => false,
        });
        if bound_here {
            let kind = std::mem::discriminant(&meanings[0]);
            if meanings.iter().any(|m| std::mem::discriminant(m) != kind) || locals.len() != self.sites.len() {
                let message = "the copies mean different things by this name";
                return Err(self.misfit(i, Code::InconsistentRenaming, message, None));
            }
            let name = |s: usize| self.sites[s].source().names.binding(locals[s]).name.as_str();
            let shown = (0..locals.len()).any(|s| self.sites[s].source().shows_its_name(locals[s]));
            if shown && (1..locals.len()).any(|s| name(s) != name(0)) {
                let message = "the copies give other names to what knows its own name";
                return Err(self.misfit(i, Code::InconsistentRenaming, message, None));
            }
            self.rename(i, &locals, seen)?;
            if matches!(meanings[0], Meaning::Local(_)) {
                match seen.variables.iter_mut().find(|(v, _)| *v == locals) {
                    Some((_, places)) => places.push(i),
                    None => seen.variables.push((locals, vec![i])),
                }
            }
            return Ok(false);
        }
        let generic = |s: usize| match meanings[s] {
            Meaning::Local(b) => is_type_parameter(self.sites[s].source(), b).then_some(b),
            _ => None,
        };
        let bounds = |s: usize| generic(s).and_then(|b| type_parameter(self.sites[s].source(), b));
        if (0..self.sites.len()).all(|s| bounds(s).is_some() && bounds(s) == bounds(0)) {
            seen.generics.extend(generic(self.template).filter(|b| !seen.generics.contains(b)));
            return Ok(false);
        }
        if meanings.iter().all(|m| *m == meanings[0]) && self.reaches_object(&meanings[0], i) {
            seen.uses_receiver = true;
            return Ok(false);
        }
        let received = |s: usize| self.sites[s].receiver().is_some_and(|r| meanings[s] == Meaning::Local(r));
        if self.as_method && (0..self.sites.len()).all(received) {
            seen.uses_receiver = true;
            return Ok(false);
        }
        let outer = matches!(meanings[0], Meaning::Outer(_) | Meaning::Shared(_));
        Ok(!outer || meanings.iter().any(|m| *m != meanings[0]))
    }

    fn node(&self, site: usize, i: usize) -> NodeId {
        self.aligned[i].nodes[site]
    }
    fn role(&self, site: usize, i: usize) -> Role {
        self.sites[site].source().tree.role(self.node(site, i))
    }
    fn text(&self, site: usize, i: usize) -> &str {
        self.sites[site].source().str(self.node(site, i))
    }

    fn is_name(&self, i: usize) -> bool {
        (0..self.sites.len()).all(|s| self.role(s, i) == Role::Name)
    }

    fn misfit(&self, i: usize, code: Code, message: &str, site: Option<usize>) -> Misfit {
        let at = site.unwrap_or(self.template);
        Misfit { reason: reason(self.sites[at].source(), self.node(at, i), code, message), site }
    }

    fn meaning(&self, site: usize, i: usize) -> Meaning {
        let s = &self.sites[site];
        let (source, node) = (s.source(), self.node(site, i));
        let receiver = s.receiver();
        match source.names.at(node).and_then(|r| r.target) {
            own if self.handed.contains(&(s.copy, node)) && (own.is_none() || own != receiver) => {
                Meaning::Outer(Entity::Unknown(usize::MAX, source.str(node).to_string()))
            }
            Some(b) if source.names.binding(b).scope == Names::MODULE && s.is_seen_in_place(b) => {
                Meaning::Outer(self.project.entity(source, &source.names.binding(b).name))
            }
            Some(b) if s.inner(b) => Meaning::Inner(b),
            Some(b) if self.is_shared(s, b) || self.is_member_here(s, b) => Meaning::Shared(b),
            Some(b) => Meaning::Local(b),
            None => Meaning::Outer(self.project.entity(source, source.str(node))),
        }
    }

    /// A member that the home's class, or one around it, has in sight, without an object or with the home's own.
    fn is_member_here(&self, site: &Portion, b: BindingId) -> bool {
        let s = site.source();
        let home = self.sites[self.template].source();
        let class = s.names.scope(s.names.binding(b).scope).node;
        let around = self.class.is_some_and(|c| s.tree.contains(class, c));
        let usable = || self.as_method || !s.lang.is_of_object(s, b);
        s.names.is_member(b) && s.path == home.path && around && usable()
    }

    /// A name that may be a member of the object: its class says so, or it may be inherited.
    fn reaches_object(&self, meaning: &Meaning, i: usize) -> bool {
        let s = self.sites[self.template].source();
        let r = s.names.at(self.node(self.template, i));
        match meaning {
            Meaning::Shared(b) => s.names.is_member(*b) && s.lang.is_of_object(s, *b),
            // the members of a sketch are those of its object
            Meaning::Outer(Entity::Member(..)) if self.is_of_sketch(r) => self.as_method,
            Meaning::Outer(_) => {
                let unknown = matches!(meaning, Meaning::Outer(Entity::Unknown(..)));
                let member = |r: &Reference| {
                    let may_be = || inherited::as_member(self.project, s, r.node) != Inherited::No;
                    let open = || s.lang.seen_through(s, s.str(r.node)).is_some() && may_be();
                    let handed = self.handed.contains(&(self.sites[self.template].copy, r.node));
                    let free = r.target.is_none() && (unknown || open());
                    if handed {
                        return true;
                    }
                    !r.is_type() && (free && !r.may_be_type() || (free || s.names.is_imported(r.node)) && may_be())
                };
                self.as_method && s.names.members_in_sight && r.is_some_and(member)
            }
            _ => false,
        }
    }

    fn is_of_sketch(&self, r: Option<&Reference>) -> bool {
        let s = self.sites[self.template].source();
        let of_file = |b: BindingId| {
            let binding = s.names.binding(b);
            let member = matches!(binding.kind, BindKind::Variable | BindKind::Function);
            member && binding.scope == Names::MODULE && s.lang.is_of_object(s, b)
        };
        s.names.members_in_sight && r.and_then(|r| r.target).is_some_and(of_file)
    }

    /// The function that takes the new one, or one around it, has the variable, and the code only reads it.
    fn is_shared(&self, site: &Portion, b: BindingId) -> bool {
        let (names, t) = (&site.source().names, &site.source().tree);
        let Some(body) = self.nest.and_then(|n| t.child(n, Field::Body)) else { return false };
        let binding = names.binding(b);
        let own_word = Some(binding.name.as_str()) == site.source().lang.object_word();
        let home = names.scope(binding.scope).node;
        let around = t.contains(home, body) && home != body;
        around && !own_word && !site.is_written(b) && !site.source().lang.is_frame_name(&binding.name)
    }

    /// One local of the first copy is one local of each other copy, and the other way round.
    fn rename(&self, i: usize, locals: &[BindingId], seen: &mut NamesSeen) -> Found<()> {
        for s in 0..locals.len() {
            let there = *seen.forth[s].entry(locals[0]).or_insert(locals[s]) == locals[s];
            let again = *seen.back[s].entry(locals[s]).or_insert(locals[0]) == locals[0];
            if !there || !again {
                let message = "the copies' locals do not correspond one to one";
                return Err(self.misfit(i, Code::InconsistentRenaming, message, Some(s)));
            }
        }
        Ok(())
    }

    fn below(&self, i: usize, roots: &FxHashSet<usize>) -> bool {
        std::iter::successors(Some(i), |x| self.aligned[*x].parent).any(|x| roots.contains(&x))
    }

    fn outermost(&self, roots: &mut FxHashSet<usize>) {
        let all = roots.clone();
        roots.retain(|r| !self.aligned[*r].parent.is_some_and(|p| self.below(p, &all)));
    }

    /// The smallest expression around a difference that an argument can stand for.
    fn root(&self, mut i: usize) -> Found<usize> {
        let start = i;
        loop {
            if (0..self.sites.len()).all(|s| self.replaceable(s, i)) {
                return Ok(i);
            }
            match self.aligned[i].parent {
                Some(p) => i = p,
                None => break,
            }
        }
        let what = "the copies differ here in something that no value can stand for";
        Err(self.misfit(start, Code::HoleNoValue, what, None))
    }

    /// A hole that uses a variable of an expression around it, such as a lambda's, takes that expression along.
    fn with_its_scope(&self, root: usize) -> usize {
        let never = |i: usize| (0..self.sites.len()).any(|s| purity(&self.sites[s], self.node(s, i)) == Purity::Never);
        let around = std::iter::successors(Some(root), |i| self.aligned[*i].parent);
        let fits = |i: &usize| (0..self.sites.len()).all(|s| self.replaceable(s, *i)) && !never(*i);
        if never(root) { around.into_iter().find(fits).unwrap_or(root) } else { root }
    }

    fn replaceable(&self, site: usize, i: usize) -> bool {
        let (t, node) = (&self.sites[site].source().tree, self.node(site, i));
        let detached = t.field(node) == Field::Callee
            && t.role(node) == Role::Member
            && !self.sites[site].source().lang.members_keep_object();
        if !t.role(node).is_expression() || t.field(node) == Field::Arguments || detached {
            return false;
        }
        let Some(parent) = t.parent(node) else { return false };
        let field = t.field(node);
        let s = self.sites[site].source();
        if s.lang.is_several(s, node) || s.lang.is_place(s, node) {
            return false;
        }
        // where functions are no values, a callee and a type are none either
        let names = &self.sites[site].source().names;
        let value = names.at(node).is_none_or(|r| r.target.is_none_or(|b| names.binding(b).space == Space::Values));
        if names.members_in_sight
            && (field == Field::Callee || !value || matches!(field, Field::Type | Field::ReturnType))
        {
            return false;
        }
        let here = match t.role(parent) {
            Role::Assign
            | Role::AugAssign
            | Role::OrAssign
            | Role::Default
            | Role::For
            | Role::CompFor
            | Role::TypeAlias => field != Field::Left,
            Role::NamedExpr => field != Field::Name,
            // as a function only
            Role::ExprStmt => t.role(node) == Role::Call,
            Role::Pattern
            | Role::MarkupTag
            | Role::Concat
            | Role::Delete
            | Role::AsTarget
            | Role::Type
            | Role::Template => false,
            // an operator may ask whether there is such a name at all
            Role::UnaryOp if t.role(node) == Role::Name => {
                self.sites[site].source().names.at(node).is_some_and(|r| r.target.is_some())
            }
            Role::UnaryOp => t.role(node) != Role::Literal,
            Role::Arguments => !s.lang.needs_constant(s, node),
            Role::MarkupAttribute | Role::Paren => t.role(node) != Role::Literal || !s.lang.needs_constant(s, node),
            Role::Function | Role::Class => !matches!(field, Field::Name | Field::ReturnType),
            _ => true,
        };
        let deep = t
            .ancestors(node)
            .take_while(|a| !matches!(t.role(*a), Role::Block | Role::Lambda))
            .any(|a| matches!(t.role(a), Role::Pattern | Role::Type | Role::AsTarget | Role::Delete));
        here && !deep
    }

    /// Parameters of the holes, each checked against the rules of evaluation. What no value can stand for travels as a
    /// function.
    fn holes(&self, roots: &FxHashSet<usize>, names: &NamesSeen) -> Found<(Vec<Parameter>, Vec<Reason>)> {
        let mut order: Vec<usize> = roots.iter().copied().collect();
        let nodes: FxHashSet<NodeId> = order.iter().map(|i| self.node(self.template, *i)).collect();
        let when = moments(&self.sites[self.template], &nodes);
        let moment = |i: usize| when.get(&self.node(self.template, i)).copied().unwrap_or_default();
        order.sort_unstable_by_key(|i| (moment(*i).order, *i));
        // a function that the body calls may do anything
        let mut called = false;
        let mut parameters: Vec<Parameter> = Vec::new();
        let mut assumptions = Vec::new();
        let mut last = None;
        let travels = Callable { sites: self.sites, aligned: self.aligned, template: self.template, names };
        for i in order {
            let mut moment = moment(i);
            moment.after_effects |= called;
            match self.as_value(i, moment, &mut last) {
                Ok((worst, assumed)) => {
                    assumptions.extend(assumed);
                    let arguments: Vec<String> = (0..self.sites.len()).map(|s| self.argument(s, i)).collect();
                    let same =
                        |p: &&mut Parameter| worst < Purity::Acts && p.callable.is_none() && p.arguments == arguments;
                    match parameters.iter_mut().find(same) {
                        Some(p) => p.places.push(i),
                        None => parameters.push(Parameter::new(i, arguments)),
                    }
                }
                Err(misfit) => {
                    let whole = self.called_whole(i);
                    let others = roots.iter().any(|r| *r != i && self.below(*r, &FxHashSet::from_iter([whole])));
                    let i = if others { i } else { whole };
                    let Some(t) = travels.at(i).filter(|_| i == whole) else { return Err(misfit) };
                    called = true;
                    add(&mut parameters, i, t);
                    if parameters.iter().filter(|p| p.callable.is_some()).count() > MOST_CALLABLES {
                        return Err(misfit);
                    }
                }
            }
        }
        Ok((parameters, assumptions))
    }

    /// What evaluating the hole before the body could do, or why that is not the same.
    fn as_value(
        &self,
        i: usize,
        moment: crate::plan::evaluate::When,
        last: &mut Option<usize>,
    ) -> Found<(Purity, Option<Reason>)> {
        if is_for_effect(&self.sites[self.template].source().tree, self.node(self.template, i)) {
            let what = "the copies differ here in something that no value can stand for";
            return Err(self.misfit(i, Code::HoleNoValue, what, None));
        }
        let mut worst = Purity::Settled;
        for s in 0..self.sites.len() {
            worst = worst.max(self.purity(s, i));
            if worst == Purity::Never {
                let message = "the copies differ in an expression that uses a local of the code itself";
                return Err(self.misfit(i, Code::HoleUsesLocal, message, Some(s)));
            }
        }
        if worst == Purity::Settled {
            return Ok((worst, None));
        }
        let assumed = self.movable(i, worst, moment)?;
        // arguments are evaluated in the order of their places
        if last.is_some_and(|l| l > i) {
            let message = "the copies differ in expressions that are not evaluated in the order of the parameters";
            return Err(self.misfit(i, Code::EvaluationOrder, message, None));
        }
        *last = Some(i);
        Ok((worst, assumed))
    }

    fn purity(&self, s: usize, i: usize) -> Purity {
        let (site, node) = (&self.sites[s], self.node(s, i));
        let source = site.source();
        let definitions = |s: &crate::names::Source, name: &str| self.project.definition(s, name);
        if source.lang.is_constant(source, node, &definitions) {
            return Purity::Settled;
        }
        purity(site, node)
    }

    /// Of a callee, the call: what a function returns is not called in the same line.
    fn called_whole(&self, i: usize) -> usize {
        let t = &self.sites[self.template].source().tree;
        match self.aligned[i].parent {
            Some(p) if t.field(self.node(self.template, i)) == Field::Callee => p,
            _ => i,
        }
    }

    /// An argument that is more than a settled value: exact when it stays the first thing evaluated.
    fn movable(&self, i: usize, worst: Purity, mut m: crate::plan::evaluate::When) -> Found<Option<Reason>> {
        m.after_effects |= worst == Purity::Acts && (m.after_throws || m.after_reads);
        if !m.conditional && !m.in_closure && !m.after_effects {
            return Ok(None);
        }
        if self.aligned[i].is_told && worst < Purity::Acts && !m.in_closure {
            return Ok(Some(self.read_early(i)));
        }
        if m.conditional || m.in_closure {
            let message = "the copies differ in an expression that is perhaps not evaluated, or more than once";
            return Err(self.misfit(i, Code::ConditionalHole, message, None));
        }
        if worst == Purity::Acts {
            let message = "the copies differ in an expression that is evaluated after other effects";
            return Err(self.misfit(i, Code::EvaluationOrder, message, None));
        }
        for s in 0..self.sites.len() {
            if !may_be_early(&self.sites[s], self.node(s, i)) {
                let message = "the copies differ in a value that code before it may change";
                return Err(self.misfit(i, Code::EvaluationOrder, message, Some(s)));
            }
        }
        Ok(Some(self.read_early(i)))
    }

    fn read_early(&self, i: usize) -> Reason {
        let text = self.text(self.template, i);
        let message = format!("reading `{text}` before the code runs gives the same value as in the middle of it");
        self.misfit(i, Code::EarlyRead, &message, None).reason
    }

    fn argument(&self, site: usize, i: usize) -> String {
        let (t, node) = (&self.sites[site].source().tree, self.node(site, i));
        let text = self.text(site, i);
        let bare_tuple = t.role(node) == Role::Tuple
            && (!text.starts_with('(')
                || t.children(node).next().is_some_and(|c| t.span(c).start == t.span(node).start));
        if bare_tuple { format!("({text})") } else { text.to_string() }
    }

    /// What a site passes must have a value there.
    fn all_bound_before(&self, parameters: &[Parameter]) -> Found<()> {
        for p in parameters {
            let Some(v) = &p.variable else { continue };
            for (s, b) in v.iter().enumerate() {
                let needed = self.sites[s].flow.ins.contains(b);
                if !needed {
                    let name = &self.sites[s].source().names.binding(*b).name;
                    let message =
                        format!("`{name}` comes in from before the code in another copy, but not in this one");
                    return Err(self.misfit(p.places[0], Code::MaybeUnbound, &message, Some(s)));
                }
            }
        }
        Ok(())
    }
}

fn own_binding(m: &Meaning) -> Option<BindingId> {
    match m {
        Meaning::Local(b) | Meaning::Inner(b) => Some(*b),
        Meaning::Outer(_) | Meaning::Shared(_) => None,
    }
}
