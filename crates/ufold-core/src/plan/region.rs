//! One copy, looked at by itself: where it is, what it takes and gives, and what keeps it from leaving its function.

use crate::align::Region;
use crate::change::{Code, Place, Reason, reason};
use crate::flow::{Flow, RegionFlow, target_of_jump};
use crate::index::declared::{bare_declarations, declaring_word};
use crate::index::method::{Method, method};
use crate::lang::Leaving;
use crate::names::{BindKind, BindingId, Names, ScopeId, Source, Space, Use};
use crate::plan::cells::crossed;
use crate::plan::leaving::{delegates, ways_of_leaving};
use crate::plan::lines::lines_of_region;
use crate::plan::replaced::not_to_be_replaced;
use crate::plan::top_level::{self, Seen};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

/// A copy that could leave its function.
pub struct Portion<'s> {
    /// Number in the request, from 1.
    pub copy: usize,
    pub region: Region<'s>,
    pub function: NodeId,
    pub scope: ScopeId,
    pub flow: RegionFlow,
    pub method: Option<Method>,
    /// Bytes that the call replaces: the statements and a comment at the end of their last line.
    pub span: Span,
    /// The region is all that the function does.
    pub whole: bool,
    /// How it is left when it returns or jumps on some paths, and the other ways to write that.
    pub leaving: Leaving,
    pub ways: Vec<Leaving>,
    /// It yields, and a call can do that for it.
    pub delegates: bool,
    /// Variables of the file that it has no more.
    pub gone: Vec<BindingId>,
}

/// The statements that a place covers. A whole function stands for its body.
pub fn locate<'s>(source: &'s Source, place: &Place) -> Result<Region<'s>, Reason> {
    let t = &source.tree;
    let wrong = |message: &str| Reason {
        code: Code::NoStatements,
        message: message.into(),
        file: place.file.clone(),
        line: place.start_line,
    };
    let span = Span::new(place.start_byte, place.end_byte);
    if place.end_byte > source.text.len() || span.start >= span.end {
        return Err(wrong("the range lies outside the file"));
    }
    let mut at = t.covering(span);
    while !t.role(at).is_sequence() && t.span(at) != span {
        at = t.parent(at).ok_or_else(|| wrong("the range covers no whole statements"))?;
    }
    let mut function = Some(at).filter(|a| t.span(*a) == span);
    // a wrapper may have the very range of its only child
    let defines = |f: NodeId| matches!(t.role(t.definition_in(f)), Role::Function | Role::Class);
    while let Some(f) = function.filter(|f| !defines(*f)) {
        function = t.parent(f).filter(|p| t.span(*p) == span);
    }
    if let Some(f) = function {
        let f = t.child(f, Field::Definition).unwrap_or(f);
        at = t.child(f, Field::Body).ok_or_else(|| wrong("the function has no body"))?;
    } else if !t.role(at).is_sequence() {
        at = t.ancestors(at).find(|a| t.role(*a).is_sequence()).unwrap_or(Tree::ROOT);
    }
    let inside = |c: &NodeId| function.is_some() || span.contains(t.span(*c));
    let can_move = |c: &NodeId| !matches!(t.role(*c), Role::Doc | Role::FrameName);
    let statements: Vec<NodeId> = t.children(at).filter(can_move).filter(inside).collect();
    match (statements.first(), statements.last()) {
        (Some(first), Some(last)) => Ok(Region { source, first: *first, last: *last, is_expression: false }),
        _ if crate::plan::range::expression(t, span).is_some() => {
            let e = crate::plan::range::expression(t, span).expect("just found");
            Ok(Region { source, first: e, last: e, is_expression: true })
        }
        _ => Err(wrong("the range covers no whole statements")),
    }
}

impl<'s> Portion<'s> {
    /// Looks at a copy by itself; all reasons that speak against it.
    ///
    /// `seen`: what other files read of the file's top level.
    pub fn new(copy: usize, region: Region<'s>, seen: &Seen) -> Result<Portion<'s>, Vec<Reason>> {
        let (source, t) = (region.source, &region.source.tree);
        let refuse = |code: Code, message: &str| vec![reason(source, region.first, code, message)];
        if region.is_expression {
            return Self::of_expression(copy, region);
        }
        let around = t.ancestor(region.first, &[Role::Function, Role::Lambda, Role::Class]);
        let function = around.unwrap_or(Tree::ROOT);
        let top = function == Tree::ROOT;
        if !top && !t.holds_statements(function) {
            return Err(refuse(Code::OutsideFunction, "the code runs while its class is made"));
        }
        if let Some(why) = top_level::too_much(source).filter(|_| top) {
            return Err(refuse(Code::OutsideFunction, why));
        }
        let scope = source.names.scope_of(function).expect("every function opens a scope");
        let flow = match top {
            true => Flow::of_top(source, region.first, &seen.by_others),
            false => Flow::of(source, function, region.first),
        };
        let Some(mut flow) = flow.region(t, &source.names, region.first, region.last) else {
            return Err(refuse(Code::NoStatements, "the range covers no whole statements"));
        };
        let Some(span) = lines_of_region(region) else {
            return Err(refuse(Code::SharedLine, "other code shares the first or the last line"));
        };
        let gone = if top { top_level::narrow(source, region, &mut flow, seen)? } else { Vec::new() };
        let body = t.child(function, Field::Body);
        let whole = body.is_some_and(|b| {
            let mut s = t.children(b).filter(|c| t.role(*c) != Role::Doc);
            s.next() == Some(region.first) && t.end(b) == t.end(region.last)
        });
        let ways = ways_of_leaving(region, &flow, function);
        let leaving = ways.first().copied().unwrap_or_default();
        let method = method(source, function, scope).filter(|_| !top);
        let delegates = delegates(source, function, &flow, region.first);
        let site = Portion { copy, region, function, scope, flow, method, span, whole, leaving, ways, delegates, gone };
        let reasons = site.objections(&seen.defining);
        if reasons.is_empty() { Ok(site) } else { Err(reasons) }
    }

    /// An expression: what it reads comes in, its value goes out.
    fn of_expression(copy: usize, region: Region<'s>) -> Result<Portion<'s>, Vec<Reason>> {
        let (source, t, node) = (region.source, &region.source.tree, region.first);
        if let Some((code, message)) = not_to_be_replaced(source, node) {
            return Err(vec![reason(source, node, code, message)]);
        }
        let function = t.callable_around(node).unwrap_or(Tree::ROOT);
        let scope = source.names.scope_of(function).unwrap_or(crate::names::Names::MODULE);
        let flow = match function {
            Tree::ROOT => RegionFlow::of_reads(&source.names, t, node, None),
            f => {
                let flow = Flow::of(source, f, node);
                RegionFlow::of_reads(&source.names, t, node, Some(&flow))
            }
        };
        let span = t.span(node);
        let method = if function == Tree::ROOT { None } else { method(source, function, scope) };
        let site = Portion {
            copy,
            region,
            function,
            scope,
            flow,
            method,
            span,
            whole: false,
            leaving: Leaving::Plain,
            ways: Vec::new(),
            delegates: false,
            gone: Vec::new(),
        };
        let mut reasons = Vec::new();
        site.leaving(&mut reasons);
        for b in &site.flow.unbound_before {
            let message = format!("`{}` may have no value yet here", source.names.binding(*b).name);
            reasons.push(reason(source, node, Code::MaybeUnbound, message));
        }
        site.frame(&[], &mut reasons);
        site.captures(&mut reasons);
        if reasons.is_empty() { Ok(site) } else { Err(reasons) }
    }

    pub fn source(&self) -> &'s Source {
        self.region.source
    }

    pub fn receiver(&self) -> Option<BindingId> {
        self.method.and_then(|m| m.receiver)
    }

    pub fn is_written(&self, b: BindingId) -> bool {
        self.flow.written.contains(&b)
    }

    /// A call in its place is returned.
    pub fn returns_value(&self) -> bool {
        let (t, returns) = (&self.source().tree, &self.flow.exits.returns);
        let some = || returns.iter().any(|r| t.children(*r).next().is_some());
        !returns.is_empty() && (!self.flow.falls_through || self.leaving == Leaving::Tail && some())
    }

    /// Name of the function with what is around it.
    pub fn within(&self) -> String {
        let (s, t) = (self.source(), &self.source().tree);
        let mut names: Vec<&str> = std::iter::once(self.function)
            .chain(t.ancestors(self.function))
            .filter(|a| matches!(t.role(*a), Role::Function | Role::Class | Role::Lambda))
            .filter_map(|a| Some(s.str(t.name_of_callable(a)?)))
            .collect();
        names.reverse();
        names.join(".")
    }

    fn objections(&self, defining: &[NodeId]) -> Vec<Reason> {
        let mut out = Vec::new();
        out.extend(crossed(&self.region));
        self.leaving(&mut out);
        self.locals(&mut out);
        self.frame(defining, &mut out);
        self.captures(&mut out);
        out
    }

    fn leaving(&self, out: &mut Vec<Reason>) {
        let (s, f) = (self.source(), &self.flow);
        if let Some(value) = self.value_of_case() {
            out.push(reason(s, value, Code::NotAValue, "this is the value of a case, no statement"));
        }
        let mut add = |node: NodeId, code: Code, message: &str| out.push(reason(s, node, code, message));
        if s.tree.has_error(self.span) {
            add(self.region.first, Code::Syntax, "the code could not be parsed");
        }
        if let (Some(r), true, Leaving::Plain) = (f.exits.returns.first(), f.falls_through, self.leaving) {
            add(*r, Code::PartialReturn, "some paths return from the function here and others go on");
        }
        if let Some(n) = f.unreachable {
            add(n, Code::NeverRuns, "nothing leads to this statement");
        }
        let jumps = matches!(self.leaving, Leaving::Round | Leaving::Break | Leaving::Continue);
        if let Some(b) = f.exits.breaks.first().filter(|_| !jumps) {
            add(*b, Code::LeavesLoop, "this leaves or continues a loop that is not part of the code");
        }
        if let Some(y) = f.exits.yields.first().filter(|_| !self.delegates) {
            add(*y, Code::Yield, "the function yields here, which a called function can't do for it");
        }
    }

    fn locals(&self, out: &mut Vec<Reason>) {
        let s = self.source();
        let name = |b: &BindingId| s.names.binding(*b).name.clone();
        // what only the region knows may go in it
        let elsewhere = |b: &&BindingId| {
            self.flow.ins.contains(b) || s.names.references_to(**b).any(|r| !self.region.contains(r.node))
        };
        let deleted: Vec<BindingId> = self.flow.deleted.iter().filter(elsewhere).copied().collect();
        let lists = [
            (&self.flow.unbound_before, Code::MaybeUnbound, "may have no value yet where the code begins"),
            (&self.flow.unbound_after, Code::MaybeUnbound, "may have no value where the code ends, and is read later"),
            (&self.flow.seen_by_handler, Code::SeenByHandler, "is written here and read where an exception is handled"),
            (&deleted, Code::DeletesLocal, "is deleted here, and has a value elsewhere too"),
        ];
        for (list, code, message) in lists {
            for b in list {
                out.push(reason(s, self.region.first, code, format!("`{}` {message}", name(b))));
            }
        }
        let handed_over = |b: &BindingId| self.leaving == Leaving::Round && self.flow.outs.contains(b);
        let told = self.flow.exits.breaks.is_empty() || !self.ways.is_empty();
        for b in self.flow.seen_when_left.iter().filter(|b| told && !handed_over(b)) {
            let message = format!("`{}` is written here and read where a return or a jump leads", name(b));
            out.push(reason(s, self.region.first, Code::ReadWhenLeft, message));
        }
        // reads that nothing reaches still make the name a local
        for b in self.flow.written.iter().filter(|b| !self.flow.outs.contains(b)) {
            let outside = || s.names.references_to(*b).filter(|r| !self.region.contains(r.node));
            if outside().next().is_some() && outside().all(|r| r.usage == crate::names::Use::Read) {
                let message = format!("`{}` gets its only value here and is named elsewhere", name(b));
                out.push(reason(s, self.region.first, Code::MaybeUnbound, message));
            }
        }
        if s.lang.declares_locals() {
            self.declared_for_others(out);
        }
        // one without a value may still get its only one
        let given = |b: BindingId| s.names.references_to(b).any(|r| r.usage.writes() && !self.region.contains(r.node));
        let constant = |b: BindingId| self.declarations(b).iter().any(|(w, here)| !here && s.lang.declares_fixed(w));
        let fixed = |b: &&BindingId| constant(**b) && given(**b);
        for b in self.flow.outs.iter().filter(fixed) {
            let message = format!("`{}` is a constant, to which the call would surely give a value", name(b));
            out.push(reason(s, self.region.first, Code::ConstantWritten, message));
        }
        for r in s.names.in_range(self.region.first, self.region.end()) {
            let Some(b) = r.target.filter(|_| r.usage.writes()) else { continue };
            let home = s.names.frame_of(b);
            let of_module = home == Names::MODULE && r.usage != Use::Delete;
            let of_class = s.names.is_member(b) && r.usage != Use::Delete;
            if home != self.scope && !of_module && !of_class && !self.region.contains(s.names.scope(home).node) {
                out.push(reason(
                    s,
                    r.node,
                    Code::RebindsOuter,
                    format!("`{}` belongs to another scope and is written here", name(&b)),
                ));
            }
        }
    }

    /// Names that are declared here and used elsewhere must come back as results.
    fn declared_for_others(&self, out: &mut Vec<Reason>) {
        let s = self.source();
        for b in s.names.locals_of(self.scope).filter(|b| !self.inner(*b)) {
            let binding = s.names.binding(b);
            let declarations = self.declarations(b);
            let function = matches!(binding.kind, BindKind::Function | BindKind::Class);
            let here = function && self.region.contains(binding.first) || declarations.iter().any(|d| d.1);
            if !here || declarations.iter().any(|d| !d.1) {
                continue;
            }
            let outside = s.names.references_to(b).any(|r| !self.region.contains(r.node));
            if outside && (function || !self.flow.outs.contains(&b)) {
                let message = format!("`{}` is declared here and named elsewhere", binding.name);
                out.push(reason(s, self.region.first, Code::DeclaredHere, message));
            }
        }
    }

    /// The words that declare a local, each with whether it stands in the region.
    pub fn declarations(&self, b: BindingId) -> Vec<(&'s str, bool)> {
        let s = self.region.source;
        let mut nodes: Vec<NodeId> = s.names.references_to(b).map(|r| r.node).collect();
        nodes.push(s.names.binding(b).first);
        nodes.extend(bare_declarations(s, b));
        nodes.sort();
        nodes.dedup();
        nodes.into_iter().filter_map(|n| Some((declaring_word(s, n)?, self.region.contains(n)))).collect()
    }

    /// What sees the frame it runs in, or the class it stands in.
    fn frame(&self, defining: &[NodeId], out: &mut Vec<Reason>) {
        let (s, t) = (self.source(), &self.source().tree);
        if let Some(member) = self.fixed_member() {
            let message =
                format!("`{}` gets its only value here, which the compiler allows nowhere else", s.str(member));
            out.push(reason(s, member, Code::ConstructorMember, message));
        }
        if let Some(member) = self.made_member() {
            let message = format!("the compiler wants `{}` to get its value in the constructor itself", s.str(member));
            out.push(reason(s, member, Code::ConstructorMember, message));
        }
        let block = t.parent(self.region.first);
        for id in t.subtree(self.function) {
            let inside = self.region.contains(id);
            match t.role(id) {
                Role::Call => {
                    let Some(callee) = t.child(id, Field::Callee) else { continue };
                    let name = s.str(callee);
                    // of a class that goes along, such words mean that class
                    let of_class = s.lang.needs_class(name) || Some(name) == s.lang.object_word();
                    let goes_along = of_class && !self.is_of_own_class(id);
                    let looks = s.lang.reads_locals(name, s.str(id)) && (inside || !defining.contains(&id));
                    if inside && s.reads_frame(id) && !goes_along || looks {
                        out.push(reason(
                            s,
                            id,
                            Code::Reflection,
                            format!("`{name}` sees the function that it is called from"),
                        ));
                    }
                }
                Role::Interpolation if inside && s.shows_its_code(id) => {
                    out.push(reason(s, id, Code::Reflection, "the text shows the code of this value"));
                }
                Role::Declare if inside && t.parent(id) == block && s.lang.closes_at_end(s, id) => {
                    out.push(reason(s, id, Code::Lifetime, "what this holds is closed at the end of its block"));
                }
                Role::FrameName if inside => {
                    let message = format!("`{}` means itself only where it stands", s.str(id));
                    out.push(reason(s, id, Code::Reflection, message));
                }
                // a jump back is a loop that no part of the tree shows
                Role::Jump if inside || target_of_jump(t, id).is_none_or(|to| to < id) => {
                    out.push(reason(s, id, Code::LeavesLoop, "this goes on at a place that is told by its name"));
                }
                Role::JumpTarget if inside => out.push(reason(s, id, Code::LeavesLoop, "jumps may go on here")),
                Role::Return if inside && t.callable_around(id).is_some_and(|f| s.lang.gives_places(s, f)) => {
                    out.push(reason(s, id, Code::NotAValue, "what this gives is the variable itself, not its value"));
                }
                Role::DynamicScope => out.push(reason(s, id, Code::Reflection, "names are made at run time here")),
                Role::Name if inside && self.is_bound_to_frame(id) => {
                    let message = format!("`{}` belongs to the function it stands in", s.str(id));
                    out.push(reason(s, id, Code::Reflection, message));
                }
                Role::KeywordName if inside && s.lang.counts_frames(s.str(id)) => {
                    out.push(reason(s, id, Code::Reflection, format!("`{}` counts calling functions", s.str(id))));
                }
                _ => {}
            }
        }
    }

    /// A statement that is what a `switch` gives.
    fn value_of_case(&self) -> Option<NodeId> {
        let t = &self.source().tree;
        let first = self.region.first;
        let block = t.parent(first).filter(|b| t.role(*b) == Role::Block && !self.region.is_expression)?;
        let case = t.parent(block).filter(|c| t.role(*c) == Role::Case && t.child(*c, Field::Operator).is_some())?;
        let around = t.parent(t.ancestor(case, &[Role::Switch])?)?;
        use Role::*;
        let statement =
            matches!(t.role(around), Block | Module | Labeled | If | Else | Case) || t.role(around).is_loop();
        (t.role(first) == ExprStmt && !statement).then_some(first)
    }

    /// A member that is given the only value that it may get.
    fn fixed_member(&self) -> Option<NodeId> {
        let (s, t) = (self.source(), &self.source().tree);
        let class = t.ancestor(self.function, &[Role::Class]).and_then(|c| s.names.scope_of(c))?;
        let own = |n: NodeId| match t.role(n) {
            Role::Name => s.names.at(n)?.target.filter(|b| s.names.is_member(*b)),
            Role::Member => {
                let object = t.child(n, Field::Object).filter(|o| Some(s.str(*o)) == s.lang.object_word());
                let member = t.child(n, Field::Member).filter(|_| object.is_some() && s.names.members_in_sight)?;
                s.names.declared_as(class, Space::Values, s.str(member))
            }
            _ => None,
        };
        let inside = (self.region.first.0..self.region.end().0).map(NodeId);
        let given = |n: &NodeId| {
            let assigns = |p: NodeId| t.role(p).assigns();
            t.field(*n) == Field::Left && t.parent(*n).is_some_and(assigns)
        };
        let given = inside.filter(given).filter(|n| self.is_of_own_class(*n));
        given.into_iter().find(|n| own(*n).is_some_and(|b| s.lang.is_final(s, b)))
    }

    /// Variables of the module that the region writes, or reads where functions must say so: the new function must stand in
    /// the same one.
    pub fn written_of_module(&self) -> Vec<BindingId> {
        let s = self.source();
        let mut out: Vec<BindingId> = Vec::new();
        for r in s.names.in_range(self.region.first, self.region.end()) {
            let says = |b: &BindingId| r.usage.writes() || !s.lang.functions_see(s, *b);
            let b =
                r.target.filter(|b| s.names.frame_of(*b) == Names::MODULE && self.scope != Names::MODULE).filter(says);
            out.extend(b.filter(|b| !out.contains(b)));
        }
        out
    }

    /// A member of the object that is given a value while it is made, where compilers look for that.
    fn made_member(&self) -> Option<NodeId> {
        let (s, t) = (self.source(), &self.source().tree);
        let word = s.lang.object_word().filter(|_| s.lang.needs_types())?;
        let name = t.name_of_callable(self.function)?;
        let own = |n: &NodeId| {
            let object = t.child(*n, Field::Object).map_or("", |o| s.str(o));
            t.role(*n) == Role::Member && t.field(*n) == Field::Left && object == word
        };
        let inside = (self.region.first.0..self.region.end().0).map(NodeId);
        let class = t.ancestor(self.function, &[Role::Class]);
        // one that has a value from the start is only given another
        let has_value = |n: &NodeId| {
            let word = t.child(*n, Field::Member).map_or("", |m| s.str(m));
            let named = |f: NodeId| {
                t.subtree(f).find(|x| t.is_leaf(*x) && t.role(*x) == Role::MemberName).is_some_and(|x| s.str(x) == word)
            };
            let fields =
                class.map_or(Vec::new(), |c| t.subtree(c).filter(|f| t.role(*f) == Role::ClassField).collect());
            fields
                .into_iter()
                .any(|f| named(f) && (t.child(f, Field::Value).is_some() || t.child(f, Field::Right).is_some()))
        };
        let own =
            inside.filter(|_| s.lang.is_constructor(s.str(name))).filter(own).filter(|n| self.is_of_own_class(*n));
        own.into_iter().find(|n| !has_value(n))
    }

    /// Not in a class that is declared in the region.
    fn is_of_own_class(&self, n: NodeId) -> bool {
        self.source().tree.ancestor(n, &[Role::Class]).is_none_or(|c| !self.region.contains(c))
    }

    fn is_bound_to_frame(&self, name: NodeId) -> bool {
        let s = self.source();
        let Some(b) = s.names.at(name).and_then(|r| r.target) else { return false };
        let word = s.str(name);
        let of_module = Some(word) == s.lang.object_word() && s.names.binding(b).scope == crate::names::Names::MODULE;
        of_module || s.lang.is_frame_name(word) && !self.inner(b)
    }

    /// Inner functions share variables, not values; what they share can't be split between two functions.
    fn captures(&self, out: &mut Vec<Reason>) {
        let s = self.source();
        for b in s.names.locals_of(self.scope) {
            let binding = s.names.binding(b);
            if !binding.captured || self.is_seen_in_place(b) {
                continue;
            }
            // a variable of the loop's body is a new one in each round
            let home = s.names.scope(binding.scope).node;
            let around = s.tree.ancestors(self.region.first).take_while(|a| *a != home);
            let looped = around.into_iter().any(|a| s.tree.role(a).is_loop());
            let uses: Vec<_> = s.names.references_to(b).collect();
            let held = |node: NodeId| self.holder(node);
            let by_inside = uses.iter().any(|r| self.region.contains(r.node) && held(r.node));
            let by_outside = uses.iter().any(|r| !self.region.contains(r.node) && held(r.node));
            // made before the code, or perhaps called by it
            let earlier = |n: NodeId| looped || n < self.region.first || self.is_in_hoisted(n);
            let by_earlier = uses.iter().any(|r| !self.region.contains(r.node) && held(r.node) && earlier(r.node));
            let touched = uses.iter().any(|r| self.region.contains(r.node));
            if !touched {
                continue;
            }
            let written = self.is_written(b);
            let rebinds = binding.rebound_inside && (by_outside || written || self.flow.ins.contains(&b));
            let later = uses.iter().any(|r| {
                let outside = r.usage != crate::names::Use::Read && !self.region.contains(r.node);
                let given = binding.kind == BindKind::Parameter && r.node == binding.first;
                outside && !given && (looped || r.node >= self.region.end())
            });
            if by_earlier && written || rebinds || by_inside && (later || written && looped) {
                out.push(reason(
                    s,
                    self.region.first,
                    Code::RebindsCaptured,
                    match binding.is_shared {
                        true => format!("a reference stands for `{}`, by which others write or see it", binding.name),
                        false => {
                            format!("an inner function shares `{}` and would see another value of it", binding.name)
                        }
                    },
                ));
            }
        }
    }

    /// The use stands in a function that is there from the start of its block on.
    fn is_in_hoisted(&self, node: NodeId) -> bool {
        let (s, t) = (self.source(), &self.source().tree);
        let own = t.ancestors(node).take_while(|a| *a != self.function).filter(|a| t.role(*a) == Role::Function);
        own.filter_map(|f| s.names.at(t.child(f, Field::Name)?)?.target).any(|b| s.names.binding(b).hoisted)
    }

    /// The use stands in an inner function or in a lazy expression.
    fn holder(&self, node: NodeId) -> bool {
        let s = self.source();
        let Some(r) = s.names.at(node) else { return false };
        s.names.scope_chain(r.scope).take_while(|x| *x != self.scope).any(|x| !s.names.scope(x).kind.runs_at_once())
    }

    /// A name of the file's top level that the new function will see there, as the code does now.
    pub fn is_seen_in_place(&self, b: BindingId) -> bool {
        let s = self.source();
        let of_file = s.names.binding(b).scope == Names::MODULE;
        let seen = self.scope != Names::MODULE || s.lang.functions_see(s, b);
        of_file && seen && !self.flow.ins.contains(&b) && !self.is_written(b)
    }

    /// Inner scopes' variables, the region's own.
    pub fn inner(&self, b: BindingId) -> bool {
        let s = self.source();
        let scope = s.names.binding(b).scope;
        scope != self.scope && self.region.contains(s.names.scope(scope).node)
    }
}
