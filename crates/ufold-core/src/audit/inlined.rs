//! `inline`: the definition is gone when no use is left, what it stood for is where its name was, in all files; imports
//! bind other names only where that needs it.

use std::cell::Cell;

use super::file::{File, Walked};
use super::first::is_first_when_told;
use super::inlined_field::Constant;
use super::inlined_member::Method;
use super::outside::{ScopeMap, same_meaning};
use super::repeated::{Told, is_the_same};
use super::{Opinion, object};
use crate::audit::moments::{is_settled, parameter, same_moments};
use crate::change::Place;
use crate::index::seen::shows_names;
use crate::index::{Entity, Project, with_word};
use crate::names::{BindingId, Names, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};

struct Inlined<'a> {
    project: &'a Project<'a>,
    home: &'a Source,
    binding: BindingId,
    definition: Definition,
    /// Of a method, its class.
    class: Option<NodeId>,
    /// Of a method that types tell.
    method: Option<&'a Method<'a>>,
    /// Of a field that types tell.
    constant: Option<&'a Constant<'a>>,
    /// The object that the call which is looked at names.
    named: Cell<Option<NodeId>>,
    /// The definition stays for the other uses.
    partly: bool,
    /// What is assumed of operators and members.
    told: Option<&'a Told>,
}

pub(super) fn run(project: &Project, (place, partly): (&Place, bool), files: &[File], told: &Told) -> Opinion<()> {
    let nowhere = |message: String| super::Objection { message, file: place.file.clone(), line: place.start_line };
    let index = project.index(&place.file).ok_or_else(|| nowhere("not a file of the project".into()))?;
    let home = project.source(index).map_err(nowhere)?;
    let (o, t) = (&*home, &home.tree);
    let word = |x: &NodeId| matches!(t.role(*x), Role::Name | Role::MemberName) && t.is_leaf(*x);
    // in `{ a }` the word is a key and a name
    let at = t.ids().filter(|x| word(x) && t.span(*x).start == place.start_byte);
    let at = at.max_by_key(|x| t.role(*x) == Role::Name);
    if let Some(word) = at.filter(|x| o.lang.types_locals() && !is_local(o, *x)) {
        return match is_field(o, word) {
            true => constant(project, partly, files, &Constant::find(project, o, word)?),
            false => typed(project, partly, files, &Method::find(project, o, word)?),
        };
    }
    let defined = |x: NodeId| match t.role(x) {
        Role::MemberName => t.ids().find(|f| {
            let name = t.child(*f, Field::Name).filter(|_| t.role(*f) == Role::Function);
            name.is_some_and(|n| o.str(n) == o.str(x)) && class_of(o, *f).is_some()
        }),
        _ => None,
    };
    let name = at.map(|x| defined(x).and_then(|f| t.child(f, Field::Name)).unwrap_or(x));
    let binding = name.and_then(|x| o.names.at(x)).and_then(|r| r.target);
    let Some(binding) = binding else { return object(o, Tree::ROOT, "what is inlined is no name") };
    let class = t.parent(o.names.binding(binding).first).and_then(|f| class_of(o, f));
    if let Some(function) = super::spread::of_statements(o, binding) {
        return match files {
            [file] if file.old.path == o.path => file.spread(binding, function, partly, None),
            _ => object(o, function, "statements went to another file"),
        };
    }
    let definition = Definition::find(o, binding)?;
    let frame = o.names.scope(o.names.frame_of(binding)).node;
    if let Some(n) = shows_names(project, o, frame, frame == Tree::ROOT).filter(|_| !partly) {
        return object(o, n, "the names of the variables are seen here");
    }
    let i = Inlined { class, told: Some(told), ..Inlined::new((project, o), binding, definition, partly) };
    let first = o.names.binding(binding).first;
    let same_type = || {
        let types = [first, i.definition.value].map(|n| project.type_text(o, n));
        types[0].is_some() && types[0] == types[1]
    };
    if o.lang.types_locals() && !same_type() {
        return object(o, first, "the value has not the type of the variable");
    }
    i.everywhere(files, i.uses())?;
    if partly { Ok(()) } else { i.imported(files) }
}

/// A variable of a function.
fn is_local(o: &Source, word: NodeId) -> bool {
    let b = o.names.at(word).and_then(|r| r.target);
    b.is_some_and(|b| !o.names.is_member(b) && o.names.frame_of(b) != Names::MODULE)
}

/// A method that types tell, with its calls in all files.
fn typed(project: &Project, partly: bool, files: &[File], m: &Method) -> Opinion<()> {
    let o = &*m.home;
    if super::spread::of_statements(o, m.binding).is_some() {
        let [file] = files else { return object(o, m.function, "statements went to another file") };
        if file.old.path != o.path {
            return object(o, m.function, "statements went to another file");
        }
        file.spread(m.binding, m.function, partly, Some(m))?;
        return if partly { Ok(()) } else { m.gone(files) };
    }
    let definition = Definition::find(o, m.binding)?;
    let i = Inlined { method: Some(m), ..Inlined::new((project, o), m.binding, definition, partly) };
    i.everywhere(files, m.calls())?;
    if partly { Ok(()) } else { m.gone(files) }
}

/// Neither the name of a method, nor one that is called.
fn is_field(o: &Source, word: NodeId) -> bool {
    let t = &o.tree;
    let path = t.parent(word).filter(|p| t.role(*p) == Role::Member && t.field(word) == Field::Member).unwrap_or(word);
    let declared = t.parent(word).is_some_and(|f| t.role(f) == Role::Function && t.field(word) == Field::Name);
    !declared && t.field(path) != Field::Callee
}

/// A field that types tell, with its reads in all files.
fn constant(project: &Project, partly: bool, files: &[File], c: &Constant) -> Opinion<()> {
    let (o, binding) = (&*c.home, c.binding);
    let definition = Definition::find(o, binding)?;
    let types = [o.names.binding(binding).first, definition.value].map(|n| project.type_text(o, n));
    if types[0].is_none() || types[0] != types[1] {
        return object(o, definition.value, "the value has not the type of the field");
    }
    let i = Inlined { constant: Some(c), ..Inlined::new((project, o), binding, definition, partly) };
    i.everywhere(files, c.words())?;
    if partly { Ok(()) } else { c.gone(files) }
}

/// The class whose member a function is.
fn class_of(s: &Source, function: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    t.parent(t.parent(function)?).filter(|c| t.role(*c) == Role::Class && t.role(function) == Role::Function)
}

/// What the method around a place calls its object.
fn receiver_at(s: &Source, place: NodeId) -> Option<(NodeId, BindingId)> {
    let method = s.tree.ancestors(place).find(|a| class_of(s, *a).is_some())?;
    Some((class_of(s, method)?, super::body::receiver_of(s, method)?))
}

impl<'a> Inlined<'a> {
    /// Of a variable, without assumptions.
    fn new(
        (project, home): (&'a Project<'a>, &'a Source),
        binding: BindingId,
        definition: Definition,
        partly: bool,
    ) -> Inlined<'a> {
        let (class, method, constant, named) = (None, None, None, Cell::new(None));
        Inlined { project, home, binding, definition, class, method, constant, named, partly, told: None }
    }

    /// All files are right, and so many uses were replaced as there are, unless some stay.
    fn everywhere(&self, files: &[File], uses: usize) -> Opinion<()> {
        let replaced: usize = files.iter().map(|f| self.file(f)).collect::<Opinion<Vec<usize>>>()?.iter().sum();
        if replaced == 0 || replaced > uses || !self.partly && replaced < uses {
            return object(self.home, self.definition.statement, "a use of the name is left");
        }
        Ok(())
    }
    /// A use that was replaced is one of what goes; with the object and the arguments.
    fn replaced(&self, o: &Source, used: NodeId) -> Option<Vec<NodeId>> {
        let t = &o.tree;
        let callee = if t.role(used) == Role::Call { t.child(used, Field::Callee) } else { Some(used) }?;
        let list = t.child(used, Field::Arguments).filter(|_| t.role(used) == Role::Call);
        let given = list.map_or(Vec::new(), |g| t.children(g).collect());
        if let Some(m) = self.method {
            return m.is_call(o, used).then_some(given);
        }
        if let Some(c) = self.constant {
            return c.is_read(o, used).then(Vec::new);
        }
        let Some(class) = self.class else {
            return o.names.at(callee)?.target.filter(|b| self.is_it(o, *b)).map(|_| given);
        };
        let object = t.child(callee, Field::Object)?;
        let named =
            t.child(callee, Field::Member).is_some_and(|m| o.str(m) == self.home.names.binding(self.binding).name);
        let own = receiver_at(o, used)? == (class, o.names.at(object)?.target?) && t.role(object) == Role::Name;
        let with_object = o.lang.object_word().is_none().then_some(object);
        (named && own && o.path == self.home.path).then(|| with_object.into_iter().chain(given).collect())
    }

    /// The same name of the same module.
    fn is_it(&self, s: &Source, b: BindingId) -> bool {
        if let Some(m) = self.method {
            let path = s.names.binding(b).first;
            let word = s.tree.subtree(path).filter(|n| s.tree.is_leaf(*n)).last();
            return s.names.binding(b).import.is_some() && word.is_some_and(|w| m.is_word(s, w));
        }
        if let Some(c) = self.constant {
            let path = s.names.binding(b).first;
            let word = s.tree.subtree(path).filter(|n| s.tree.is_leaf(*n)).last();
            return s.names.binding(b).import.is_some() && word.is_some_and(|w| c.is_word(s, w));
        }
        if s.path == self.home.path {
            return b == self.binding;
        }
        let name = &self.home.names.binding(self.binding).name;
        let own = s.names.binding(b).scope == Names::MODULE && s.names.binding(b).import.is_some();
        own && Some(self.project.entity(s, &s.names.binding(b).name))
            == self.project.index(&self.home.path).map(|f| Entity::Member(f, name.clone()))
    }

    /// No file imports what is gone.
    fn imported(&self, files: &[File]) -> Opinion<()> {
        let name = &self.home.names.binding(self.binding).name;
        for (_, s) in with_word(self.project, name, self.home.lang).filter(|(_, s)| s.path != self.home.path) {
            let Some(b) = s.names.bindings_of(Names::MODULE).find(|b| self.is_it(&s, *b)) else { continue };
            let after = files.iter().find(|f| f.old.path == s.path).map(|f| &f.new.names);
            let own = s.names.binding(b);
            let left =
                |names: &Names| names.in_module(&own.name).is_some_and(|x| names.binding(x).import == own.import);
            if after.is_none_or(left) {
                return object(&s, own.first, "this imports what is gone");
            }
        }
        Ok(())
    }

    /// All uses in the project.
    fn uses(&self) -> usize {
        if self.class.is_some() {
            let (t, name) = (&self.home.tree, &self.home.names.binding(self.binding).name);
            return t.ids().filter(|n| t.role(*n) == Role::MemberName && self.home.str(*n) == name).count();
        }
        let read = |s: &Source, b: BindingId| s.names.references_to(b).filter(|r| r.usage == Use::Read).count();
        let mut count = read(self.home, self.binding);
        if self.home.names.binding(self.binding).scope != Names::MODULE {
            return count;
        }
        let name = &self.home.names.binding(self.binding).name;
        for f in (0..self.project.facts.len()).filter(|f| self.project.facts[*f].has_word(name)) {
            let Ok(s) = self.project.source(f) else { continue };
            let own = s.path != self.home.path;
            count += s
                .names
                .bindings_of(Names::MODULE)
                .filter(|b| own && self.is_it(&s, *b))
                .map(|b| read(&s, b))
                .sum::<usize>();
        }
        count
    }

    /// Checks one file; the number of uses that were replaced in it.
    fn file(&self, f: &File) -> Opinion<usize> {
        let (o, s, d) = (&*f.old, &f.new, &self.definition);
        let (t, n) = (&o.tree, &s.tree);
        let at_home = o.path == self.home.path;
        let goes = at_home && !self.partly;
        // with the word that exports it
        let around = |n: NodeId| t.parent(n).filter(|p| t.role(*p) == Role::Decorated).unwrap_or(n);
        let gone = goes.then(|| around(d.statement));
        let w = f.walk(gone)?;
        f.meanings(&w)?;
        if w.gone.as_slice() != gone.as_slice()
            || !w.added.is_empty()
            || !w.spread.is_empty()
            || at_home && !w.imports.is_empty()
        {
            return object(o, Tree::ROOT, "not just the definition went");
        }
        self.imports(f, &w)?;
        for (a, c) in &w.replaced {
            let Some(given) = self.replaced(o, *a) else { return object(o, *a, "something else was replaced") };
            if !same_number((o, *a), (&f.new, *c), self.home.lang.gives_several(self.home, d.value)) {
                return object(o, *a, "another number of values stands here");
            }
            let bare = if n.role(*c) == Role::Paren && self.home.tree.role(d.value) != Role::Paren {
                n.children(*c).next().unwrap_or(*c)
            } else {
                *c
            };
            if let Some(m) = self.method {
                m.fits(f, *a, *c, d.value, &given)?;
                m.throws(o, *a)?;
                let named = m.named_object(o, *a)?;
                self.named.set(named);
                if named.is_some_and(|x| !m.asks_first(o, x, d.value)) {
                    return object(o, *a, "that the object is there is not asked first any more");
                }
            }
            if let Some(c) = self.constant {
                c.reaches(o, *a, d.value)?;
            }
            let text = t.ancestors(*a).find(|x| t.role(*x) == Role::Template);
            if text.is_some_and(|x| !o.lang.fits_in_template(o.str(x), self.home.str(d.value))) {
                return object(o, *a, "the text around this shows how it is written, or can't have it");
            }
            self.stands_for(f, &w.scopes, self.home, d.value, bare, &given)?;
            let kept = match self.home.tree.role(d.statement) {
                Role::Function => same_moments(f, self.home, &d.parameters, d.value, &given),
                // it has its value before anything runs
                _ if self.constant.is_some() => true,
                _ => self.same_moment(*a, w.replaced.len()),
            };
            if !kept {
                return object(o, *a, "the value would be computed at another time");
            }
        }
        Ok(w.replaced.len())
    }

    /// Imports lose the name that went, and bind names of its module that its value needs.
    fn imports(&self, f: &File, w: &Walked) -> Opinion<()> {
        let bound = |s: &Source, i: NodeId| -> Vec<BindingId> {
            let names = s.tree.subtree(i).filter_map(|x| s.names.at(x)).filter(|r| r.usage.writes());
            names.filter_map(|r| r.target).collect()
        };
        for (a, c) in &w.imports {
            let was: Vec<&str> = bound(&f.old, *a).into_iter().map(|b| f.old.names.binding(b).name.as_str()).collect();
            let is = c.map_or(Vec::new(), |c| bound(&f.new, c));
            for b in &is {
                let name = &f.new.names.binding(*b).name;
                let now = self.project.entity(&f.new, name);
                let kept = was.contains(&name.as_str()) && now == self.project.entity(&f.old, name);
                let needed = || {
                    let t = &self.home.tree;
                    let reads = |x: NodeId| t.role(x) == Role::Name && self.home.str(x) == name;
                    t.subtree(self.definition.value).any(reads) && now == self.project.entity(self.home, name)
                };
                if !kept && !needed() {
                    return object(&f.old, *a, format!("the import of `{name}` brings something else"));
                }
            }
            let lost = bound(&f.old, *a).into_iter().find(|b| {
                let name = &f.old.names.binding(*b).name;
                !is.iter().any(|x| f.new.names.binding(*x).name == *name) && !self.is_it(&f.old, *b)
            });
            if lost.is_some() {
                return object(&f.old, *a, "an import is missing");
            }
        }
        Ok(())
    }

    /// The only use is the first thing done after the definition, or the value is always the same.
    fn same_moment(&self, used: NodeId, uses: usize) -> bool {
        let (o, t, d) = (self.home, &self.home.tree, &self.definition);
        let block = t.parent(d.statement).unwrap_or(Tree::ROOT);
        let inner = t.callable_around(used) != t.callable_around(d.statement);
        if !t.contains(block, used) || !inner && used < d.statement {
            return false;
        }
        if t.subtree(d.value).all(|n| is_settled(o, n, true)) {
            return true;
        }
        let next = t.children(block).find(|c| *c >= t.end(d.statement)).filter(|n| t.contains(*n, used));
        let plain = self.told.map_or(&[][..], |t| &t.plain);
        let first = next.is_some_and(|n| is_first_when_told(o, n, used, d.value, plain));
        let again = |told: &Told| is_the_same(self.project, o, (d.statement, d.value), used, told);
        !inner && (uses == 1 && !self.partly && first || self.told.is_some_and(again))
    }

    /// New code is the old expression of a source, with arguments for parameters.
    fn stands_for(&self, f: &File, map: &ScopeMap, o: &Source, a: NodeId, b: NodeId, given: &[NodeId]) -> Opinion<()> {
        let (t, n) = (&o.tree, &f.new.tree);
        let wrong = || object(o, a, "what stands at the use is not what was defined");
        let is_value = self.home.tree.contains(self.definition.value, a) && !given.is_empty();
        let parameters: &[BindingId] = if is_value { &self.definition.parameters } else { &[] };
        let own = o.names.at(a).and_then(|r| r.target).and_then(|x| parameters.iter().position(|p| *p == x));
        if own.is_some_and(|k| k >= given.len()) {
            return wrong();
        }
        if let Some(k) = own {
            if f.new.lang.is_place(&f.new, b) {
                return object(o, a, "this asks for a variable, not for a value");
            }
            if f.new.lang.is_several(&f.new, b) {
                return object(o, a, "a parameter was one value");
            }
            let bare = n.role(b) == Role::Paren && f.old.tree.role(given[k]) != Role::Paren;
            let inner = if bare { n.children(b).next().unwrap_or(b) } else { b };
            return self.stands_for(f, map, &f.old, given[k], inner, &[]);
        }
        let own = std::ptr::eq(o, self.home) && self.home.tree.contains(self.definition.value, a);
        if let Some(m) = self.method.filter(|_| own && t.role(a) == Role::Name)
            && let Some(reaches) = m.reaches(f, a, b, self.named.get())
        {
            return if reaches { Ok(()) } else { wrong() };
        }
        if t.kind(a) != n.kind(b) {
            return wrong();
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            let same = o.names.at(a).is_none() || self.means_the_same(f, map, o, a, b);
            return if t.exact(a) == n.exact(b) && same { Ok(()) } else { wrong() };
        }
        let (x, y): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        if x.len() != y.len() {
            return wrong();
        }
        x.into_iter().zip(y).try_for_each(|(a, b)| self.stands_for(f, map, o, a, b, given))
    }

    fn means_the_same(&self, f: &File, map: &ScopeMap, o: &Source, a: NodeId, b: NodeId) -> bool {
        let s = &f.new;
        let target = o.names.at(a).and_then(|r| r.target);
        let inner = target.is_some_and(|x| o.names.binding(x).scope != Names::MODULE);
        let method = self.class.and_then(|_| receiver_at(o, self.definition.value));
        if target.is_some() && method.map(|m| m.1) == target && Some(o.str(a)) == o.lang.object_word() {
            let object = s.names.at(b).and_then(|r| r.target);
            return object.is_some() && receiver_at(s, b).map(|m| m.1) == object && o.str(a) == s.str(b);
        }
        if o.path != s.path && !inner {
            let module = s.names.at(b).is_some_and(|r| super::outside::is_module_level(&s.names, r.target));
            let is_read = s.names.at(b).is_some_and(|r| r.usage == Use::Read);
            return module && is_read && self.project.entity(o, o.str(a)) == self.project.entity(s, s.str(b));
        }
        let mut scopes = map.clone();
        let around =
            |s: &Source, x: NodeId| s.tree.ancestors(x).filter(|p| s.names.scope_of(*p).is_some()).collect::<Vec<_>>();
        for (x, y) in around(o, a).into_iter().zip(around(s, b)) {
            scopes.entry(x).or_insert(y);
        }
        same_meaning(o, s, &scopes, a, b)
    }
}

/// What a name stands for.
struct Definition {
    statement: NodeId,
    value: NodeId,
    parameters: Vec<BindingId>,
}

impl Definition {
    fn find(o: &Source, b: BindingId) -> Opinion<Definition> {
        let t = &o.tree;
        let first = o.names.binding(b).first;
        let parent = t.parent(first).unwrap_or(Tree::ROOT);
        if t.role(parent) == Role::Function {
            let body = t.child(parent, Field::Body).unwrap_or(parent);
            let returned = t.children(body).filter(|c| t.role(*c) != Role::Doc).last();
            let value = returned.filter(|r| t.role(*r) == Role::Return).and_then(|r| t.children(r).next());
            let list = t.child(parent, Field::Parameters).map_or(Vec::new(), |p| t.children(p).collect::<Vec<_>>());
            let named = |p: &NodeId| parameter(o, *p);
            let parameters: Option<Vec<BindingId>> = list.iter().map(named).collect();
            return match value.filter(|v| t.role(*v) != Role::Values).zip(parameters) {
                Some((value, parameters)) => Ok(Definition { statement: parent, value, parameters }),
                None => object(o, parent, "the function returns no single expression"),
            };
        }
        let statement = t.ancestor(first, &[Role::ExprStmt, Role::Declare, Role::ClassField]);
        let value = t.child(parent, Field::Right).filter(|_| t.role(parent) == Role::Assign);
        match statement.zip(value).filter(|_| o.names.binding(b).writes == 1) {
            Some((statement, value)) => Ok(Definition { statement, value, parameters: Vec::new() }),
            None => object(o, first, "the name is given no single value"),
        }
    }
}

/// What gives one value where it stood, or all that are given, does so still. `several`: what was defined may be several.
fn same_number(old: (&Source, NodeId), new: (&Source, NodeId), several: bool) -> bool {
    let was = old.0.lang.is_several(old.0, old.1) && several;
    old.0.lang.takes_several(old.0, old.1) == new.0.lang.takes_several(new.0, new.1)
        && new.0.lang.is_several(new.0, new.1) == was
}
