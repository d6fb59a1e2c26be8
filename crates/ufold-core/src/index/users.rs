//! Who uses a name of a module, in whatever file of the project.

use std::sync::Arc;

use crate::index::unseen::called;
use crate::index::words::unquoted;
use crate::index::{Entity, Project};
use crate::names::{BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// Another file that has the word.
pub struct Other {
    pub file: usize,
    pub source: Arc<Source>,
    /// The name of its module that stands for the home's; none when it has only the word.
    pub binding: Option<BindingId>,
}

/// Files besides `home` that have a word.
pub fn others(project: &Project, home: usize, name: &str) -> Vec<Other> {
    let has = |f: &usize| *f != home && project.facts[*f].has_word(name);
    (0..project.facts.len()).filter(has).filter_map(|f| other(project, home, f, name)).collect()
}

/// One of them.
pub fn other(project: &Project, home: usize, file: usize, name: &str) -> Option<Other> {
    let named = Entity::Member(home, name.to_string());
    let source = project.source(file).ok()?;
    let means = |b: &BindingId| project.entity(&source, &source.names.binding(*b).name) == named;
    let binding = source.names.bindings_of(Names::MODULE).find(means);
    Some(Other { file, source, binding })
}

impl Other {
    /// A place where the file may get at the home's name in a way that its binding does not tell.
    pub fn stray(&self, project: &Project, home: usize, name: &str) -> Option<NodeId> {
        self.strays(project, home, name).next()
    }

    /// All of them.
    pub fn strays<'s>(&'s self, project: &Project, home: usize, name: &'s str) -> impl Iterator<Item = NodeId> + 's {
        let (s, t) = (&self.source, &self.source.tree);
        let reaches = project.imports(self.file, home) || project.modules().reaches(self.file, home);
        let is_stray = move |n: &NodeId| match t.role(*n) {
            Role::MemberName => reaches,
            Role::Name => {
                let target = s.names.at(*n).and_then(|r| r.target);
                let imports = |b: BindingId| s.names.binding(b).import.is_some();
                let own = target.is_some_and(|b| Some(b) == self.binding || !imports(b));
                !own && !self.is_imported_at(*n) && (target.is_some() || reaches)
            }
            _ => false,
        };
        t.ids().filter(move |n| t.is_leaf(*n) && s.str(*n) == name).filter(is_stray)
    }

    /// The word in the import that gives the file its binding.
    fn is_imported_at(&self, n: NodeId) -> bool {
        let t = &self.source.tree;
        let statement = |n: NodeId| t.ancestor(n, &[Role::Import, Role::ImportFrom]);
        let first = self.binding.map(|b| self.source.names.binding(b).first);
        first.is_some_and(|f| statement(f).is_some() && statement(f) == statement(n))
    }
}

/// The last parameter of a function is all the arguments that are left.
pub fn takes_any_number(s: &Source, function: NodeId) -> bool {
    let last = s.tree.child(function, Field::Parameters).and_then(|p| s.tree.children(p).last());
    last.is_some_and(|p| s.str(p).contains("..."))
}

/// An argument that stands for one parameter, by its place.
pub fn is_plain_argument(t: &Tree, n: NodeId) -> bool {
    !matches!(t.role(n), Role::Spread | Role::KeywordArg | Role::Generator)
}

/// Strings of a file that are a name, and may lead to it at run time.
pub fn named_by_text<'s>(s: &'s Source, name: &'s str) -> impl Iterator<Item = NodeId> + 's {
    s.tree.ids().filter(move |n| s.tree.role(*n) == Role::Literal && s.str(*n).trim_matches(['"', '\'', '`']) == name)
}

/// Whether a string stands in the list of a module's public names.
pub fn is_listed(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let assign = t.ancestor(n, &[Role::Assign, Role::AugAssign]);
    assign.and_then(|a| t.child(a, Field::Left)).is_some_and(|l| Some(s.str(l)) == s.lang.public_list())
}

/// Calls of a hidden method by its own class, each with its object; none when it may be used in any other way.
pub fn method_calls(project: &Project, s: &Source, function: NodeId) -> Option<Vec<(NodeId, NodeId)>> {
    let t = &s.tree;
    let name = s.str(t.child(function, Field::Name)?);
    let class = t.parent(t.parent(function)?).filter(|c| t.role(*c) == Role::Class)?;
    let home: Vec<usize> = project.index(&s.path).into_iter().collect();
    let elsewhere = project.word_elsewhere(name, &home) || named_by_text(s, name).next().is_some();
    if elsewhere || !s.lang.hides_member(s, function) {
        return None;
    }
    // another member, or another class's, of that name
    let defined = |n: &NodeId| {
        let named = t.role(*n) == Role::Name && s.str(*n) == name && t.field(*n) == Field::Name;
        named && t.ancestor(*n, &[Role::Class]).is_some()
    };
    if t.ids().filter(defined).count() != 1 {
        return None;
    }
    calls_by_class(s, class, name)
}

/// Calls of a member by methods of its class, each with its object; none when the word is used in any other way.
pub fn calls_by_class(s: &Source, class: NodeId, name: &str) -> Option<Vec<(NodeId, NodeId)>> {
    let t = &s.tree;
    let uses = t.ids().filter(|n| t.role(*n) == Role::MemberName && s.str(*n) == name);
    uses.map(|n| {
        let member = t.parent(n).filter(|m| t.role(*m) == Role::Member)?;
        let call = t.parent(member).filter(|c| t.role(*c) == Role::Call && t.field(member) == Field::Callee)?;
        let object = t.child(member, Field::Object)?;
        (receiver_in(s, class, call) == Some(s.names.at(object)?.target?)).then_some((call, object))
    })
    .collect()
}

/// The object of the class whose method a place is in.
fn receiver_in(s: &Source, class: NodeId, place: NodeId) -> Option<BindingId> {
    let functions = s.tree.ancestors(place).filter(|a| s.tree.role(*a) == Role::Function);
    let methods = functions.filter_map(|f| crate::index::method::method(s, f, s.names.scope_of(f)?));
    methods.into_iter().find(|m| m.class == class)?.receiver
}

/// The item that binds a name in an import: all of it, and whether it is the only one of its statement.
pub fn import_item(s: &Source, b: BindingId) -> Option<(NodeId, NodeId, bool)> {
    let t = &s.tree;
    let first = s.names.binding(b).first;
    let statement = t.ancestor(first, &[Role::ImportFrom]).filter(|i| t.parent(*i) == Some(Tree::ROOT))?;
    let item = t.parent(first).filter(|p| is_import_item(t, *p)).unwrap_or(first);
    let list = t.parent(item)?;
    let bound = |n: NodeId| s.names.at(n).is_some_and(|r| r.usage.writes());
    let count = t.subtree(statement).filter(|n| t.is_leaf(*n) && bound(*n)).count();
    let beside = t.children(list).any(|c| c != item && is_import_item(t, c));
    // alone in its list, but not in its statement: more than a word would have to go
    let odd = count > 1 && !beside;
    (!odd).then_some((statement, item, count == 1))
}

/// One place gives a name its value; what an import follows counts.
pub fn is_given_once(s: &Source, b: BindingId) -> bool {
    let binding = s.names.binding(b);
    binding.writes == 1 && !binding.rebound_inside
}

/// What an expression loads by a text is this file, or may be: the text is none that can be read.
pub fn may_load(project: &Project, s: &Source, expression: NodeId, file: usize) -> bool {
    let t = &s.tree;
    let calls = t.subtree(expression).filter_map(|n| called(s, n));
    let mut loads = calls.filter(|(word, _)| s.lang.loading_words().contains(word));
    loads.any(|(_, arguments)| match arguments.first().filter(|a| t.role(**a) == Role::Literal) {
        Some(text) => project.resolved(s, &s.lang.import_of_text(unquoted(s, *text))).contains(&file),
        None => true,
    })
}

/// A name that an import lists, with its alias.
pub fn is_import_item(t: &Tree, n: NodeId) -> bool {
    matches!(t.role(n), Role::ImportAlias | Role::DottedName | Role::Name) && t.field(n) != Field::Module
}

/// An import that leads to no file of the project, and may be one of this file by a name that only its surroundings know: a
/// path that a build maps, a folder that a program adds to those it looks in.
pub fn by_unknown_path(project: &Project, home: &Source, name: &str) -> Option<(Arc<Source>, NodeId)> {
    let stem = crate::index::words::stem_of(&home.path);
    let may_be = |module: &str| {
        let last = module.rsplit('/').next().unwrap_or(module);
        last == stem || last.rsplit('.').next() == Some(stem) || last.split('.').next() == Some(stem)
    };
    crate::index::with_word(project, name, home.lang).find_map(|(_, s)| {
        let t = &s.tree;
        let imports = |n: &NodeId| {
            let links = matches!(t.role(*n), Role::Import | Role::ImportFrom | Role::Declare);
            let all = if links { s.lang.loaded_by(t, *n, &s.text) } else { Vec::new() };
            let passed = s.lang.passed_on(&s).into_iter().map(|p| p.import).filter(|_| t.role(*n) == Role::ImportFrom);
            all.into_iter().chain(passed).any(|i| {
                let named = may_be(&i.module) || i.member.as_deref() == Some(stem);
                named && !s.lang.is_standard_module(&i.module) && project.resolved(&s, &i).is_empty()
            })
        };
        t.ids().find(imports).map(|n| (s.clone(), n))
    })
}
