//! Writing the plan's texts: the body of the new function and the calls, with the person's text kept where it can be.

use crate::align::Aligned;
use crate::index::declared::is_typed_behind;
use crate::lang::values::Derivation;
use crate::lang::{Bundle, Bundled, CallParts, FunctionParts, FunctionType, Leaving, MethodKind, Reach, Target};
use crate::names::{BindingId, Use};
use crate::plan::general::{General, Optional, must_declare};
use crate::plan::given::local_of;
use crate::plan::home::Home;
use crate::plan::leading::Leading;
use crate::plan::literal_types::in_its_place;
use crate::plan::region::Portion;
use crate::text::{Edit, Span, apply_edits, indent_at};
use crate::tree::{Field, NodeId, Role};

pub struct Written<'a> {
    /// Where the language wants them.
    pub types: Option<&'a crate::plan::general::Signature>,
    pub sites: &'a [Portion<'a>],
    pub aligned: &'a [Aligned],
    pub home: &'a Home,
    pub general: &'a General,
    pub name: &'a str,
    pub parameter_names: &'a [String],
    pub doc: Option<&'a str>,
    /// The copies' common comment that moves into the body.
    pub heading: Option<&'a Leading>,
}

impl Written<'_> {
    pub fn template(&self) -> &Portion<'_> {
        &self.sites[self.home.template]
    }

    /// Names of the results in the body, in order.
    pub fn result_names(&self, site: usize) -> Vec<String> {
        let names = &self.sites[site].source().names;
        self.general.results.iter().map(|r| names.binding(r[site]).name.clone()).collect()
    }

    pub fn function(&self) -> String {
        let site = self.template();
        let s = site.source();
        let unit = s.habits().unit.clone();
        let indent = match self.home.class {
            Some(c) => {
                let home = self.home.source(self.sites);
                format!("{}{unit}", indent_at(&home.text, home.tree.span(c).start))
            }
            None if self.home.nest.is_some() => {
                let body = self.home.nest.and_then(|n| s.tree.child(n, Field::Body));
                let first = body.and_then(|b| s.tree.children(b).next());
                first.map_or(String::new(), |f| indent_at(&s.text, s.tree.span(f).start).to_string())
            }
            None => String::new(),
        };
        let annotations = self.annotations().filter(|_| self.types.is_none());
        let mut parameters: Vec<(String, Option<String>)> = Vec::new();
        let receiver = site.receiver().filter(|_| self.home.takes_object() && s.lang.object_word().is_none());
        if let Some(r) = receiver {
            parameters.push((s.names.binding(r).name.clone(), None));
        }
        let typed = |i: usize| self.types.map(|t| t.parameters[i].clone());
        let sure = self.sure_types();
        let said = |i: usize| annotations.as_ref().map(|(p, _)| p[i].clone());
        let given = |i: usize| typed(i).or_else(|| said(i)).or_else(|| sure.0[i].clone());
        let plain = self.parameter_names.iter().take(self.general.parameters.len());
        parameters.extend(plain.enumerate().map(|(i, n)| (n.clone(), given(i))));
        let optional = self.optional().map(|(o, n)| (o, (n.to_string(), self.types.and_then(|t| t.optional.clone()))));
        let flag = optional.clone().filter(|(o, _)| o.is_flag).map(|(_, p)| p);
        parameters.extend(flag);
        let function = s.lang.write_function(
            s,
            &FunctionParts {
                optional: optional.filter(|(o, _)| !o.is_flag).map(|(_, p)| p),
                name: self.name.to_string(),
                parameters,
                returns: annotations.and_then(|a| a.1).or_else(|| self.result_type()).or(sure.1),
                writes_parameters: self.writes_parameters(),
                throws: self.types.map_or(Vec::new(), |t| t.throws.clone()),
                is_async: self.is_async(),
                is_generator: site.delegates,
                method: match self.home.is_static {
                    true => Some(MethodKind::Static),
                    false => site.method.filter(|_| self.home.class.is_some()).map(|m| m.kind),
                },
                without_object: self.sites.iter().any(|x| x.source().lang.needs_no_object(x.source(), x.function)),
                reach: match self.sites.iter().any(|o| o.source().path != self.home.source(self.sites).path) {
                    true => self.home.reach.max(Reach::Near),
                    false => self.home.reach,
                },
                type_parameters: self.types.map_or(Vec::new(), |t| t.generics.clone()),
                doc: self.doc.map(str::to_string),
                body: self.body(&format!("{indent}{unit}")),
                indent: indent.clone(),
                unit: unit.clone(),
            },
        );
        self.types_beside(&indent, &unit) + &function
    }

    fn writes_parameters(&self) -> bool {
        let all = &self.general.parameters;
        let again = |i: &usize| {
            local_of(self.template(), self.aligned, self.home.template, &all[*i]).is_some_and(|(_, again)| again)
        };
        all.iter().any(|p| p.variable.is_some()) || self.general.given.iter().any(again)
    }

    /// Types that are made for the function, over it.
    fn types_beside(&self, indent: &str, unit: &str) -> String {
        let lang = self.template().source().lang;
        let all = self.types.map_or(&[][..], |t| &t.functions);
        let first = |(i, f): &(usize, &(usize, FunctionType))| all[..*i].iter().all(|(_, o)| o.name != f.1.name);
        let called = all.iter().enumerate().filter(first).map(|(_, f)| f);
        let called = called.filter_map(|(_, f)| lang.write_function_type(f, indent, unit)).map(|(text, _)| text);
        let held = self.bundle().and_then(|b| lang.write_bundle(b, indent, unit));
        let blank = "\n".repeat(lang.blank_lines().1);
        called.chain(held).map(|text| text + &blank).collect()
    }

    /// The type that was made for a parameter.
    fn own_function(&self, parameter: usize) -> Option<&FunctionType> {
        self.types?.functions.iter().find(|(p, _)| *p == parameter).map(|(_, f)| f)
    }

    /// The type that holds several results.
    pub fn bundle(&self) -> Option<&Bundle> {
        self.types?.bundle.as_ref()
    }

    /// The parameter for a statement that some copies lack, with its name.
    pub fn optional(&self) -> Option<(&Optional, &str)> {
        Some((self.general.optional.as_ref()?, self.parameter_names.last()?))
    }

    /// The edit that makes the statement depend on it.
    fn depend(&self, indent: &str) -> Option<Edit> {
        let (o, name) = self.optional()?;
        let s = self.template().source();
        let span = s.tree.span(o.statement);
        let text = &s.text[span.start..span.end];
        let end = if text.ends_with(';') { ";" } else { "" };
        let action = if o.is_flag { text.to_string() } else { format!("{name}({}){end}", o.passed.join(", ")) };
        Some(Edit::new(span.start, span.end, s.lang.write_optional(name, o.is_flag, &action, indent, &s.habits().unit)))
    }

    pub fn is_async(&self) -> bool {
        let site = self.template();
        let t = &site.source().tree;
        let holes = self.hole_nodes();
        site.flow.exits.awaits.iter().any(|a| !holes.iter().any(|h| t.contains(*h, *a)))
    }

    fn hole_nodes(&self) -> Vec<NodeId> {
        let places = self.general.parameters.iter().filter(|p| p.variable.is_none()).flat_map(|p| &p.places);
        places.map(|i| self.aligned[*i].nodes[self.home.template]).collect()
    }

    /// Places that the parameters stand for in the template, with their numbers.
    pub fn holes(&self) -> Vec<(Span, usize)> {
        self.filled().into_iter().map(|(span, i, _)| (span, i)).collect()
    }

    /// The same with the text that takes the place.
    fn filled(&self) -> Vec<(Span, usize, String)> {
        let t = &self.template().source().tree;
        let mut out = Vec::new();
        for (i, p) in self.general.parameters.iter().enumerate() {
            for (n, place) in p.places.iter().enumerate() {
                let span = t.span(self.aligned[*place].nodes[self.home.template]);
                let name = &self.parameter_names[i];
                let text = match &p.callable {
                    Some(c) => {
                        let of_type = self.types.map(|t| t.parameters[i].as_str());
                        let lang = self.template().source().lang;
                        match self.own_function(i).and_then(|f| lang.write_function_type(f, "", "")) {
                            Some((_, member)) => format!("{name}.{member}({})", c.passed[n].join(", ")),
                            None => lang.write_invocation(name, of_type, &c.passed[n]),
                        }
                    }
                    None => self.in_place(span, name),
                };
                out.push((span, i, text));
            }
            for (place, how) in &p.derived {
                let node = self.aligned[*place].nodes[self.home.template];
                out.push((t.span(node), i, self.computed(node, &self.parameter_names[i], *how)));
            }
        }
        out.sort_by_key(|(s, ..)| s.start);
        out
    }

    /// A value that follows from a parameter's, in brackets where others stand beside it.
    fn computed(&self, node: NodeId, name: &str, how: Derivation) -> String {
        let (s, t) = (self.template().source(), &self.template().source().tree);
        let text = s.lang.write_derived(name, how);
        let alone = t.parent(node).is_none_or(|p| {
            let lists =
                matches!(t.role(p), Role::Arguments | Role::KeywordArg | Role::Return | Role::Pair | Role::List);
            lists || t.role(p) == Role::Assign
        });
        let one_word = matches!(how, Derivation::Upper | Derivation::Lower);
        if alone || one_word { text } else { format!("({text})") }
    }

    /// The template's text with the parameters in it, moved to another indentation, and the hand-over of the results.
    fn body(&self, indent: &str) -> String {
        let site = self.template();
        let (s, t) = (site.source(), &site.source().tree);
        // a local that is handed in to be written keeps its name
        let named = |i: &usize| self.general.parameters[*i].variable.is_none();
        let filled = self.filled().into_iter().filter(|(_, i, _)| named(i));
        let mut edits: Vec<Edit> = filled.map(|(h, _, text)| self.short(h, text)).collect();
        for hole in &self.general.type_holes {
            let spans = hole.places.iter().map(|i| t.span(self.aligned[*i].nodes[self.home.template]));
            edits.extend(spans.map(|span| Edit::new(span.start, span.end, hole.name.clone())));
        }
        if site.region.is_expression {
            return self.value_body(indent, edits);
        }
        edits.extend(self.depend(indent));
        let statements = site.region.statements();
        if let Some(next) = statements.get(self.general.given.len()).filter(|_| !self.general.given.is_empty()) {
            edits.push(Edit::new(site.span.start, t.span(*next).start, ""));
        }
        let results = self.result_names(self.home.template);
        let mut tail = s.lang.write_return(s, &results, self.bundle().map(|b| b.name.as_str()));
        edits.extend(self.ways_out(&tail));
        match site.leaving {
            Leaving::Plain | Leaving::Tail | Leaving::Round => {}
            Leaving::Guard | Leaving::Break | Leaving::Continue => tail = s.lang.write_value(s, s.lang.truth(false)),
            Leaving::Value => tail = s.lang.write_value(s, s.lang.nothing()),
        }
        let at_once = self.final_value().filter(|_| results.len() == 1);
        if let Some(right) = at_once {
            let start = t.span(site.region.last).start;
            edits.push(Edit::new(start, t.span(right).start, tail_keyword(&tail, &results[0])));
            tail.clear();
        }
        let declared = self.declare_locals(indent, at_once.is_some(), &mut edits);
        edits.extend(self.reindent(indent, &edits));
        let shifted: Vec<Edit> = edits
            .into_iter()
            .map(|e| Edit::new(e.span.start - site.span.start, e.span.end - site.span.start, e.text))
            .collect();
        let text = &s.text[site.span.start..site.span.end];
        let heading = self.heading.map_or(String::new(), |h| {
            let lines = s.text[h.start..site.span.start].trim_end().lines().map(|l| format!("{indent}{}\n", l.trim()));
            lines.collect()
        });
        let body = outermost_applied(text, shifted).replace("\r\n", "\n");
        let tail = if tail.is_empty() { tail } else { format!("\n{indent}{tail}") };
        let declared = if declared.is_empty() { declared } else { format!("{indent}{declared}\n") };
        format!("{declared}{heading}{indent}{body}{tail}")
    }

    /// What becomes of the returns and jumps of a body that returns or jumps on some paths; `hand_over`: what it ends
    /// with.
    fn ways_out(&self, hand_over: &str) -> Vec<Edit> {
        let site = self.template();
        let (s, t) = (site.source(), &site.source().tree);
        let told = s.lang.write_value(s, s.lang.truth(true));
        let (nodes, text) = match site.leaving {
            Leaving::Plain | Leaving::Value | Leaving::Tail => return Vec::new(),
            Leaving::Guard => (&site.flow.exits.returns, told),
            Leaving::Break | Leaving::Continue => (&site.flow.exits.breaks, told),
            Leaving::Round if hand_over.is_empty() => (&site.flow.exits.breaks, "return".to_string()),
            Leaving::Round => (&site.flow.exits.breaks, hand_over.to_string()),
        };
        // the statement's own end stays
        let end = |n: NodeId| {
            let span = t.span(n);
            span.start + s.text[span.start..span.end].trim_end_matches(';').trim_end().len()
        };
        let text = text.trim_end_matches(';');
        nodes.iter().map(|n| Edit::new(t.span(*n).start, end(*n), text)).collect()
    }

    /// The edit that fills a hole; a key with a value of the same name is one word where the language has that.
    fn short(&self, hole: Span, text: String) -> Edit {
        let (s, t) = (self.template().source(), &self.template().source().tree);
        let node = t.ids().find(|n| t.span(*n) == hole && t.field(*n) == Field::Value);
        let pair = node.and_then(|n| t.parent(n)).filter(|p| t.role(*p) == Role::Pair && t.span(*p) != hole);
        let key =
            pair.and_then(|p| t.child(p, Field::Key)).filter(|k| t.role(*k) == Role::MemberName && s.str(*k) == text);
        match pair.filter(|_| key.is_some() && s.lang.grammar().has_shorthands()) {
            Some(p) => Edit::new(t.span(p).start, t.span(p).end, text),
            None => Edit::new(hole.start, hole.end, text),
        }
    }

    /// The body that hands over the value of an expression.
    fn value_body(&self, indent: &str, mut edits: Vec<Edit>) -> String {
        let site = self.template();
        let s = site.source();
        edits.extend(self.reindent(indent, &edits));
        let start = site.span.start;
        let shift = |e: Edit| Edit::new(e.span.start - start, e.span.end - start, e.text);
        let shifted: Vec<Edit> = edits.into_iter().map(shift).collect();
        let text = &s.text[start..site.span.end];
        let body = outermost_applied(text, shifted).replace("\r\n", "\n");
        format!("{indent}{}", s.lang.write_value(s, &body))
    }

    /// A parameter's name where a hole stood; a word that is key and value at once keeps its key.
    fn in_place(&self, hole: Span, name: &str) -> String {
        let (s, t) = (self.template().source(), &self.template().source().tree);
        let pair = t.ids().find(|n| t.span(*n) == hole && t.role(*n) == Role::Name).and_then(|n| t.parent(n));
        match pair.filter(|p| t.span(*p) == hole && t.child(*p, Field::Key).is_some()) {
            Some(_) if &s.text[hole.start..hole.end] != name => format!("{}: {name}", &s.text[hole.start..hole.end]),
            _ => match t.ids().find(|n| t.span(*n) == hole && t.role(*n) == Role::Literal) {
                Some(literal) => in_its_place(s, literal, name.to_string()),
                None => name.to_string(),
            },
        }
    }

    /// Locals that the body writes and whose declaration stays outside: declared with their first value where that is
    /// a statement of its own, else by the returned line at the start.
    fn declare_locals(&self, indent: &str, value_at_once: bool, edits: &mut Vec<Edit>) -> String {
        let site = self.template();
        let s = site.source();
        if !s.lang.declares_locals() {
            let t = &s.tree;
            let said = |b: &crate::names::BindingId| {
                let inside = (site.region.first.0..site.region.end().0).map(NodeId);
                inside
                    .filter(|n| t.role(*n) == Role::Global)
                    .any(|n| t.subtree(n).any(|x| s.str(x) == s.names.binding(*b).name))
            };
            let outer = site.written_of_module().into_iter().filter(|b| !said(b));
            let names: Vec<String> = outer.map(|b| s.names.binding(b).name.clone()).collect();
            return if names.is_empty() { String::new() } else { s.lang.write_outer(&names) };
        }
        let mut bare = Vec::new();
        for b in site.flow.written.iter().filter(|b| self.must_declare(**b)) {
            let handed_over = value_at_once && self.general.results[0][self.home.template] == *b;
            let uses: Vec<_> = s.names.references_to(*b).filter(|r| site.region.contains(r.node)).collect();
            if handed_over && uses.len() == 1 {
                continue;
            }
            match self.first_statement(*b) {
                Some(at) if !handed_over => {
                    let once = uses.iter().filter(|r| r.usage != Use::Read).count() == 1;
                    let typed = self.types.filter(|_| s.lang.types_locals());
                    let word = match typed {
                        Some(types) => types.local(*b).unwrap_or_default().to_string(),
                        None => s.lang.declaring_word(once).to_string(),
                    };
                    edits.push(Edit::new(at, at, format!("{word} ")));
                }
                // compilers that follow values lose it in loops and in functions inside, and want its type
                _ => bare.push((s.names.binding(*b).name.clone(), self.local_type(site, *b))),
            }
        }
        if bare.is_empty() { String::new() } else { s.lang.write_declaration(s, &bare, indent) }
    }

    fn local_type(&self, site: &Portion, b: BindingId) -> Option<String> {
        let told = self.types.and_then(|t| t.local(b)).map(str::to_string);
        told.or_else(|| local_type(site, b))
    }

    fn must_declare(&self, b: BindingId) -> bool {
        must_declare(self.template(), self.home.template, self.general, b)
    }

    /// Start of the statement of the region that gives a local its first value, when nothing uses it before.
    fn first_statement(&self, b: BindingId) -> Option<usize> {
        let site = self.template();
        let (s, t) = (site.source(), &site.source().tree);
        let first = s.names.references_to(b).map(|r| r.node).filter(|n| site.region.contains(*n)).min()?;
        let assign = t.parent(first).filter(|a| t.role(*a) == Role::Assign && t.field(first) == Field::Left)?;
        let statement = t.parent(assign).filter(|p| t.role(*p) == Role::ExprStmt)?;
        let own = site.region.statements().contains(&statement);
        let right = t.child(assign, Field::Right)?;
        let plain = !t.subtree(right).any(|n| s.names.at(n).is_some_and(|r| r.target == Some(b)));
        (own && plain && t.role(right) != Role::Assign).then(|| t.span(statement).start)
    }

    /// The value that the last statement gives to the only result: it can be returned at once.
    fn final_value(&self) -> Option<NodeId> {
        let site = self.template();
        let (s, t) = (site.source(), &site.source().tree);
        let [result] = self.general.results.as_slice() else { return None };
        let mut last = site.region.last;
        if matches!(t.role(last), Role::ExprStmt | Role::Declare) {
            // the words before a declaration are not what it gives
            let is_value = |c: &NodeId| t.role(*c) != Role::Token && t.field(*c) != Field::Type;
            let parts: Vec<NodeId> = t.children(last).filter(is_value).collect();
            let [one] = parts[..] else { return None };
            last = one;
        }
        let left = t.child(last, Field::Left).filter(|_| t.role(last) == Role::Assign)?;
        let right = t.child(last, Field::Right)?;
        let plain = t.role(left) == Role::Name
            && s.names.at(left).and_then(|r| r.target) == Some(result[self.home.template])
            && t.child(last, Field::Type).is_none()
            && !matches!(t.role(right), Role::Assign | Role::Yield | Role::Other);
        plain.then_some(right)
    }

    /// Edits that replace the indentation of each line but the first, except inside strings and replaced holes.
    fn reindent(&self, indent: &str, replaced: &[Edit]) -> Vec<Edit> {
        let site = self.template();
        let (s, t) = (site.source(), &site.source().tree);
        let from = indent_at(&s.text, site.span.start);
        let strings: Vec<Span> = (site.region.first.0..site.region.end().0)
            .map(NodeId)
            .filter(|n| matches!(t.role(*n), Role::Literal | Role::Template))
            .map(|n| t.span(n))
            .filter(|p| s.text[p.start..p.end].contains('\n'))
            .collect();
        let mut out = Vec::new();
        let (a, z) = (s.lines.line(site.span.start), s.lines.line(site.span.end));
        for start in (a + 1..=z).filter_map(|l| s.lines.start_of(l)) {
            let inside = |p: &Span| p.start < start && start < p.end;
            // a line that takes the place of what goes
            let moved = replaced.iter().any(|e| e.text.is_empty() && e.span.start < start && start == e.span.end);
            if moved {
                continue;
            }
            if strings.iter().any(inside) || replaced.iter().any(|e| inside(&e.span)) {
                continue;
            }
            let line = s.text[start..].lines().next().unwrap_or("");
            let own = line.len() - line.trim_start_matches([' ', '\t']).len();
            if line.trim().is_empty() {
                continue;
            }
            let old = if line.starts_with(from) { from.len() } else { own };
            out.push(Edit::new(start, start + old, indent));
        }
        out
    }

    /// A name for what a site may return, that nothing in its function has.
    fn temporary(&self, i: usize) -> String {
        let site = &self.sites[i];
        let (s, t) = (site.source(), &site.source().tree);
        let in_text = |name: &str| t.subtree(site.function).any(|n| t.role(n) == Role::Name && s.str(n) == name);
        let same = |o: &Portion| o.source().path == s.path && o.function == site.function;
        // one block declares a name once
        let block = |o: &Portion| s.lang.declares_locals() && t.parent(o.region.first) == t.parent(site.region.first);
        let clashes = |o: &Portion| same(o) && (self.bundle().is_some() || block(o));
        let earlier = || self.sites[..i].iter().enumerate().filter(|(_, o)| clashes(o));
        let used = |name: &str| in_text(name) || earlier().any(|(k, _)| self.temporary(k) == name);
        let mark = s.lang.variable_mark();
        let words = ["result", "found", "answer", "outcome"].map(|w| format!("{mark}{w}")).into_iter();
        let numbered = (2..).map(|i| format!("{mark}result{i}"));
        words.chain(numbered).find(|w| !used(w)).expect("numbers do not end")
    }

    /// How a site declares a result whose declaration moves away.
    fn declared_word(&self, i: usize, b: BindingId) -> Option<String> {
        let site = &self.sites[i];
        let s = site.source();
        let words = site.declarations(b);
        if words.iter().any(|w| !w.1) {
            return None;
        }
        let word = words.first()?.0;
        let written = s.names.references_to(b).any(|r| r.usage != Use::Read && !site.region.contains(r.node));
        if is_typed_behind(s, s.names.binding(b).first) {
            let whole = self.types.and_then(|t| t.result.clone()).filter(|_| self.bundle().is_none())?;
            return Some(word.rsplit_once(' ').map_or(whole.clone(), |(marks, _)| format!("{marks} {whole}")));
        }
        let free = !s.lang.declares_fixed(word) && !s.lang.declares_for_function(word) && !s.lang.types_locals();
        Some(if free && !written { s.lang.declaring_word(true) } else { word }.to_string())
    }

    /// What a site passes.
    fn arguments(&self, i: usize) -> Vec<String> {
        let plain = self.general.parameters.iter().map(|p| p.arguments[i].clone());
        plain.chain(self.general.optional.as_ref().and_then(|o| o.arguments[i].clone())).collect()
    }

    /// How a site names the value that several results come in.
    fn bundled(&self, i: usize) -> Option<Bundled> {
        let b = self.bundle()?;
        let of_type = crate::plan::class_home::callee(&self.sites[i], self.home, self.sites, &b.name);
        Some(Bundled { of_type, variable: self.temporary(i), is_short: b.is_short })
    }

    /// The text that replaces a copy.
    pub fn call(&self, i: usize) -> (String, Vec<String>) {
        let site = &self.sites[i];
        let s = site.source();
        let callee = match (self.home.class, site.receiver()) {
            _ if s.names.members_in_sight => crate::plan::class_home::callee(site, self.home, self.sites, self.name),
            (Some(_), _) if self.home.is_static => s.lang.own_static(self.name),
            (Some(_), Some(r)) => s.lang.member_path(&s.names.binding(r).name, self.name),
            _ => self.name.to_string(),
        };
        let types: Vec<&str> = self.general.type_holes.iter().map(|h| h.types[i].as_str()).collect();
        let callee = if types.is_empty() { callee } else { format!("{callee}<{}>", types.join(", ")) };
        let mut results = self.result_names(i);
        let wanted = self.general.results.iter().any(|r| site.flow.outs.contains(&r[i]));
        if !wanted {
            results.clear();
        }
        let targets = results.iter().zip(self.result_names(self.home.template)).zip(&self.general.results);
        let targets = targets.map(|((name, from), r)| {
            let declared = self.declared_word(i, r[i]);
            let of_type = declared.as_ref().and_then(|_| local_type(site, r[i]));
            Target { name: name.clone(), from, declared, of_type }
        });
        let parts = CallParts {
            callee,
            arguments: self.arguments(i),
            is_await: self.is_async(),
            delegates: site.delegates,
            bundled: self.bundled(i).filter(|_| wanted),
            results: targets.collect(),
            is_return: site.returns_value(),
            is_expression: site.region.is_expression,
            indent: indent_at(&s.text, site.span.start).to_string(),
            unit: s.habits().unit.clone(),
            width: s.habits().width,
            result_type: self.types.and_then(|t| t.result.clone()),
        };
        let kept = (site.leaving == Leaving::Value).then(|| self.temporary(i));
        let text = match site.leaving.word() {
            None => s.lang.write_call(s, &parts),
            Some(word) => s.lang.write_leaving(s, &parts, word, kept.as_deref()),
        };
        (text, results)
    }
}

fn tail_keyword(tail: &str, result: &str) -> String {
    tail.rfind(result).map_or(String::new(), |i| tail[..i].to_string())
}

/// The type of a local that the code of a site gives its values, where types are written.
fn local_type(site: &Portion, b: BindingId) -> Option<String> {
    let s = site.source();
    let used = s.names.references_to(b).map(|r| r.node).find(|n| site.region.contains(*n));
    let ty = s.lang.type_of(s, used.filter(|_| s.lang.needs_types())?, &|_, _| None);
    s.lang.spell(ty, s, &|_, _| None)
}

/// A text with edits, those left out that lie inside of others: what a name stands for is gone with all in it.
fn outermost_applied(text: &str, mut edits: Vec<Edit>) -> String {
    // what is put before a word is not inside of it
    edits.sort_by_key(|e| (e.span.start, e.span.start < e.span.end, std::cmp::Reverse(e.span.end)));
    let mut kept: Vec<Edit> = Vec::new();
    for e in edits {
        let inside = kept.last().is_some_and(|k| k.span.start < k.span.end && e.span.start < k.span.end);
        if !inside {
            kept.push(e);
        }
    }
    apply_edits(text, &kept).expect("what is left does not overlap")
}
