//! Users of a name that no binding tells: names that are looked up at run time, modules and members that are gone
//! through, texts that are code, and what a library demands of its subclasses.
//!
//! Everything here is a suspicion with a place. What surely uses the name is found elsewhere; what surely does not is not
//! told. It can't see files of other kinds (settings, templates of pages) and code outside the project.

use std::sync::Arc;

use rayon::prelude::*;
use rustc_hash::FxHashSet;

use crate::change::{Code, Reason, reason};
use crate::find::FileFacts;
use crate::index::frames::Lookers;
use crate::index::words::{has_whole_word, unquoted, whole_words};
use crate::index::{Entity, Project, computed_text, paths, words};
use crate::lang::{Language, Look, Sort};
use crate::names::{Names, Reference, ScopeKind, Source, Space};
use crate::tree::{Field, NodeId, Role};

/// Places that one suspicion lists.
pub const MOST_PLACES: usize = 3;

/// The last word of what a call calls, and its arguments.
pub fn called(s: &Source, call: NodeId) -> Option<(&str, Vec<NodeId>)> {
    let t = &s.tree;
    if t.role(call) != Role::Call {
        return None;
    }
    let list = t.child(call, Field::Arguments)?;
    let callee = s.text[t.span(call).start..t.span(list).start].trim_end();
    let arguments = t.children(list).filter(|a| t.role(*a) != Role::Token).collect();
    Some((callee.rsplit(['.', ' ']).next().unwrap_or(callee), arguments))
}

/// Files of a language, and those that share its names, with a word anywhere in their text, read and parsed.
pub fn with_word<'p>(
    project: &'p Project,
    word: &'p str,
    lang: &dyn Language,
) -> impl Iterator<Item = (usize, Arc<Source>)> + 'p {
    with_text(project, word, |f| speaks(f, lang))
}

/// The same in all languages: a text may name what is of another one.
pub fn anywhere<'p>(project: &'p Project, word: &'p str) -> impl Iterator<Item = (usize, Arc<Source>)> + 'p {
    with_text(project, word, |_| true)
}

fn with_text<'p>(
    project: &'p Project,
    word: &'p str,
    matters: impl Fn(&FileFacts) -> bool + Sync,
) -> impl Iterator<Item = (usize, Arc<Source>)> + 'p {
    let says = |f: usize| project.text(f).is_some_and(|t| has_whole_word(&t, word));
    let has = |f: &usize| matters(&project.facts[*f]) && says(*f);
    let files: Vec<usize> = (0..project.facts.len()).into_par_iter().filter(has).collect();
    let read: Vec<_> = files.into_par_iter().filter_map(|f| Some((f, project.source(f).ok()?))).collect();
    read.into_iter()
}

/// A file of a language, or of one that shares its names.
fn speaks(facts: &FileFacts, lang: &dyn Language) -> bool {
    facts.is_of_family(lang)
}

/// Files of a language in whose code a word stands, read and parsed.
pub fn with_name<'p>(project: &'p Project, word: &str, lang: &dyn Language) -> impl Iterator<Item = Arc<Source>> + 'p {
    with_name_and(project, word, &[], lang).into_iter()
}

/// The same, of those whose texts have all of these.
fn with_name_and(project: &Project, word: &str, texts: &[&str], lang: &dyn Language) -> Vec<Arc<Source>> {
    let has = |f: &usize| project.facts[*f].has_word(word) && speaks(&project.facts[*f], lang);
    let says = |f: &usize| texts.is_empty() || project.text(*f).is_some_and(|t| texts.iter().all(|x| t.contains(x)));
    let files: Vec<usize> = (0..project.facts.len()).filter(has).collect();
    files.into_par_iter().filter(says).filter_map(|f| project.source(f).ok()).collect()
}

/// Functions that look at those which called them, asked once for a project.
pub(crate) fn lookers(project: &Project, lang: &dyn Language) -> Arc<Lookers> {
    let known = || project.lookers.lock().unwrap_or_else(|e| e.into_inner());
    if let Some(found) = known().get(lang.family()) {
        return found.clone();
    }
    let with = |word: &str, texts: &[&str]| with_name_and(project, word, texts, lang);
    let found = Arc::new(Lookers::of(lang, &with));
    known().insert(lang.family(), found.clone());
    found
}

/// Files that are read and parsed side by side, before it is known whether more are needed.
const AT_ONCE: usize = 32;

/// Files, among those that can matter, with one of the words that a language's lookups have.
fn with_lookups<'p>(
    project: &'p Project,
    words: fn(&dyn Language) -> &'static [&'static str],
    matters: impl Fn(&FileFacts) -> bool,
) -> impl Iterator<Item = Arc<Source>> + 'p {
    let has = |f: &usize| {
        let facts = &project.facts[*f];
        let lang = crate::lang::by_name(&facts.language).filter(|_| matters(facts));
        lang.is_some_and(|l| words(l).iter().any(|w| facts.has_word(w)) || l.loads_without_a_name())
    };
    few_at_once(project, (0..project.facts.len()).filter(has).collect())
}

/// Sources of files, a few of them read and parsed at once, and no more than are wanted.
fn few_at_once<'p>(project: &'p Project, files: Vec<usize>) -> impl Iterator<Item = Arc<Source>> + 'p {
    let mut at = 0;
    std::iter::from_fn(move || {
        let few = files.get(at..files.len().min(at + AT_ONCE)).filter(|few| !few.is_empty())?;
        at += few.len();
        Some(few.par_iter().filter_map(|f| project.source(*f).ok()).collect::<Vec<_>>())
    })
    .flatten()
}

/// Where a name is looked up, or what is looked through.
pub enum Within<'a> {
    File(&'a str),
    /// All files of the languages that have their names in common with this one's.
    Speakers(&'a dyn Language),
}

impl Within<'_> {
    fn has(&self, facts: &FileFacts) -> bool {
        match self {
            Within::File(path) => facts.path == *path,
            Within::Speakers(home) => speaks(facts, *home),
        }
    }
}

/// A place in a text where a word is code rather than prose.
pub fn is_code_in_text(s: &Source, n: NodeId, word: &str) -> bool {
    let (t, text) = (&s.tree, s.str(n));
    let doc = t.role(n) == Role::Doc || t.parent(n).is_some_and(|p| t.role(p) == Role::Doc);
    if doc {
        // examples that are run
        return text.lines().any(|l| l.trim_start().starts_with(">>>") && has_whole_word(l, word));
    }
    let body = unquoted(s, n);
    if body.split('.').any(|p| p == word) && !body.contains(char::is_whitespace) {
        return true;
    }
    // `port.Berth@`, `Berth#fee()`
    let is_path = || body.chars().all(|c| c.is_alphanumeric() || "_.#$@()".contains(c));
    let may_be = s.lang.texts_may_be_code() || t.ancestor(n, &[Role::Decorator]).is_some() || is_path();
    may_be
        && whole_words(body, word).any(|i| {
            let (before, after) = (body[..i].chars().next_back(), body[i + word.len()..].chars().next());
            before.is_some_and(|c| ".[({<|=`".contains(c))
                || after.is_some_and(|c| ".[({}>|=".contains(c) && !at_end(body, i, word, c))
        })
}

/// A full stop that ends a sentence.
fn at_end(body: &str, i: usize, word: &str, c: char) -> bool {
    let rest = &body[i + word.len() + c.len_utf8()..];
    c == '.' && rest.chars().next().is_none_or(char::is_whitespace)
}

/// Texts that may lead to a name: each a suspicion.
pub fn texts(project: &Project, word: &str, told: &dyn Fn(&Source, NodeId) -> bool) -> Vec<Reason> {
    let mut out = Vec::new();
    for (_, s) in anywhere(project, word) {
        let t = &s.tree;
        let is_text = |n: &NodeId| matches!(t.role(*n), Role::Literal | Role::TemplateText | Role::Doc);
        let imports = |n: NodeId| t.ancestor(n, &[Role::Import, Role::ImportFrom]).is_some();
        let meant = |n: &NodeId| is_text(n) && is_code_in_text(&s, *n, word) && !told(&s, *n) && !imports(*n);
        let message = || format!("nothing is looked up by the text `{word}`, which stays");
        out.extend(t.ids().filter(meant).map(|n| reason(&s, n, Code::NamedByString, message())));
    }
    out.truncate(5);
    out
}

/// Places in files that are not scanned, such as settings with entry points and sources that could not be read.
pub fn elsewhere(project: &Project, word: &str, home: &Source) -> Vec<Reason> {
    let module = project.index(&home.path).and_then(|f| project.modules().name(f));
    let forms = module.map_or(Vec::new(), |m| home.lang.named_in_settings(m, word));
    let told = project.mentions(word, &forms).into_iter().take(MOST_PLACES);
    let message = format!("`{word}` here is another one, or stays right by hand: this file is not read as code");
    told.map(|m| Reason { code: Code::NotScanned, message: message.clone(), file: m.file, line: m.line }).collect()
}

/// Names that are looked up by a text that is made at run time, or listed.
pub fn lookups(project: &Project, word: &str, within: Within) -> Vec<Reason> {
    lookups_of(project, word, within, None, &|_, _| false)
}

/// The same for a member of a sort, where it is known. `other` says which objects can't have it.
pub fn lookups_of(
    project: &Project,
    word: &str,
    within: Within,
    sort: Option<Sort>,
    other: &dyn Fn(&Arc<Source>, NodeId) -> bool,
) -> Vec<Reason> {
    let mut out = Vec::new();
    for s in with_lookups(project, |l| l.lookup_words(), |f| within.has(f)) {
        if out.len() >= MOST_PLACES {
            break;
        }
        let t = &s.tree;
        let looks = |n: &NodeId| match t.role(*n) {
            Role::Call => look(&s, *n).is_some_and(|look| {
                let of_name = |a: &NodeId| t.role(*a) != Role::Literal && computed_text::may_be(&s, *a, word);
                let of_sort = look.sort.zip(sort).is_none_or(|(a, b)| a == b);
                let meant = of_sort && look.names.is_none_or(|all| all.iter().any(of_name));
                meant && !look.object.is_some_and(|o| other(&s, o))
            }),
            Role::MemberName => {
                let looks = s.lang.lookup_words().contains(&s.str(*n)) && s.str(*n).starts_with('_');
                let member = t.parent(*n).filter(|p| looks && t.role(*p) == Role::Member);
                let other_object = member.and_then(|m| t.child(m, Field::Object)).is_some_and(|o| other(&s, o));
                looks && !other_object && !member.is_some_and(|m| is_asked_for_another(&s, m, word))
            }
            // a copy has what the object has
            Role::Spread => s.lang.members_are_keys() && t.parent(*n).is_some_and(|p| t.role(p) == Role::Dict),
            _ => false,
        };
        let message = || format!("`{word}` is not among the names that are looked up or listed here");
        out.extend(t.ids().filter(looks).take(1).map(|n| reason(&s, n, Code::LookedUp, message())));
    }
    out.truncate(MOST_PLACES);
    out
}

/// `"word" in object.__dict__`, or `object.__dict__["word"]`, for another word.
pub(crate) fn is_asked_for_another(s: &Source, list: NodeId, word: &str) -> bool {
    let t = &s.tree;
    let index = t.parent(list).filter(|p| t.role(*p) == Role::Index).and_then(|p| t.child(p, Field::Index));
    if let Some(i) = index {
        return t.role(i) == Role::Literal && unquoted(s, i) != word;
    }
    let asked = t.parent(list).filter(|p| t.role(*p) == Role::Compare).and_then(|c| t.children(c).next());
    asked.is_some_and(|a| a < list && t.role(a) == Role::Literal && unquoted(s, a) != word)
}

/// Calls that make objects of data.
pub fn data(project: &Project, what: &str) -> Vec<Reason> {
    let mut out = Vec::new();
    for s in with_lookups(project, |l| l.data_words(), |_| true) {
        if out.len() >= MOST_PLACES {
            break;
        }
        let t = &s.tree;
        let makes = |n: &NodeId| called(&s, *n).is_some_and(|(word, _)| s.lang.data_words().contains(&word));
        let message = || format!("the data that is read here has no {what}");
        out.extend(t.ids().filter(makes).take(1).map(|n| reason(&s, n, Code::LookedUp, message())));
    }
    out.truncate(MOST_PLACES);
    out
}

/// A text that is exactly a name, in a call that looks names up, or in brackets after an object: the object, where there
/// is one.
pub fn looked_up(s: &Source, n: NodeId, word: &str) -> Option<Option<NodeId>> {
    let t = &s.tree;
    if t.role(n) != Role::Literal || unquoted(s, n) != word {
        return None;
    }
    let parent = t.parent(n)?;
    if t.role(parent) == Role::Index && t.field(n) == Field::Index && s.lang.members_are_keys() {
        return Some(t.child(parent, Field::Object));
    }
    if t.role(parent) == Role::Index && t.field(n) != Field::Object {
        // `globals()["name"]`
        let object = t.child(parent, Field::Object).or_else(|| t.children(parent).next())?;
        return look(s, object).map(|_| None);
    }
    let call = t.parent(parent).filter(|_| t.role(parent) == Role::Arguments)?;
    let look = look(s, call)?;
    look.names.is_none_or(|all| all.contains(&n)).then_some(look.object.filter(|o| *o != n))
}

/// What a call looks up or lists, if it does.
fn look(s: &Source, call: NodeId) -> Option<Look> {
    let (word, arguments) = called(s, call)?;
    s.lang.lookup_words().contains(&word).then(|| s.lang.look(s, call, word, &arguments)).flatten()
}

/// Members that are taken by a computed name.
pub fn computed_members(project: &Project, word: &str, home: &dyn Language) -> Vec<Reason> {
    let mut out = Vec::new();
    let by_text = |f: &usize| {
        let lang = crate::lang::by_name(&project.facts[*f].language);
        lang.is_some_and(|l| l.members_are_keys() && l.family() == home.family())
    };
    for s in few_at_once(project, (0..project.facts.len()).filter(by_text).collect()) {
        if out.len() >= MOST_PLACES {
            break;
        }
        let t = &s.tree;
        let computed = |n: &NodeId| {
            let index = t.child(*n, Field::Index).filter(|_| t.role(*n) == Role::Index);
            // a list of names can be asked by number for a name
            let of_class = t.child(*n, Field::Object).and_then(|o| definition_of(project, &s, o));
            if of_class.is_some_and(|(h, d)| h.tree.role(d) == Role::Class) {
                return index.is_some();
            }
            index.is_some_and(|i| may_be_a_name(&s, i) && computed_text::may_be(&s, i, word))
        };
        let message = || format!("`{word}` is not among the members that are taken by a computed name here");
        out.extend(t.ids().filter(computed).take(1).map(|n| reason(&s, n, Code::LookedUp, message())));
    }
    out.truncate(MOST_PLACES);
    out
}

/// A key that may be a text: no number, and no variable that counts.
fn may_be_a_name(s: &Source, index: NodeId) -> bool {
    let t = &s.tree;
    match t.role(index) {
        Role::Literal | Role::UnaryOp => false,
        Role::BinaryOp => t
            .subtree(index)
            .any(|n| matches!(t.role(n), Role::TemplateText | Role::Template) || s.str(n).starts_with(['"', '\''])),
        Role::Name => {
            let target = s.names.at(index).and_then(|r| r.target);
            let counts = target.is_some_and(|b| {
                let first = s.names.binding(b).first;
                t.ancestor(first, &[Role::CountedFor])
                    .is_some_and(|f| t.child(f, Field::Init).is_some_and(|i| t.contains(i, first)))
            });
            !counts
        }
        Role::Member | Role::Call => false,
        _ => true,
    }
}

/// Places where a module is handed on as a value, or loaded in a way that binds none of its names.
pub fn handed_on(project: &Project, home: usize) -> Vec<(Arc<Source>, NodeId)> {
    let language = |f: usize| crate::lang::by_name(&project.facts[f].language);
    let family = language(home).map(|l| l.family());
    let loads = |f: usize, lang: &dyn Language| {
        let table = lang.module_table().and_then(|t| t.rsplit('.').next());
        let mut words = lang.loading_words().iter().copied().chain(table);
        words.any(|w| project.facts[f].has_word(w)) || lang.loads_without_a_name()
    };
    let may = |f: &usize| {
        let lang = language(*f).filter(|l| Some(l.family()) == family);
        lang.is_some_and(|l| loads(*f, l) || project.imports(*f, home) || *f == home)
    };
    let files: Vec<usize> = (0..project.facts.len()).filter(may).collect();
    let of_file = |f: &usize| -> Vec<(Arc<Source>, NodeId)> {
        let Ok(s) = project.source(*f) else { return Vec::new() };
        let (t, loads) = (&s.tree, loads(*f, s.lang));
        let given = |n: &NodeId| match t.role(*n) {
            Role::Call => loads && loads_by_call(project, &s, *n, home),
            Role::Member => Some(s.str(*n)) == s.lang.module_table() && may_be_taken(project, &s, *n, home),
            Role::Name if t.field(*n) != Field::Object => {
                // a class that imports has it as a member
                let given = |r: &&Reference| r.usage.reads() || s.names.scope(r.scope).kind == ScopeKind::Class;
                let b = s.names.at(*n).filter(given).and_then(|r| r.target);
                b.is_some_and(|b| project.may_be_module(&s, b, home))
            }
            _ => false,
        };
        t.ids().filter(given).map(|n| (s.clone(), n)).collect()
    };
    files.par_iter().flat_map_iter(of_file).collect()
}

/// What is done with the table of all modules may give `home`: another one's name, or the file's own, does not.
fn may_be_taken(project: &Project, s: &Source, table: NodeId, home: usize) -> bool {
    let t = &s.tree;
    let Some(parent) = t.parent(table) else { return true };
    let key = match t.role(parent) {
        // whether a name is in it
        Role::Compare => return false,
        Role::Index if t.children(parent).next() == Some(table) => {
            t.children(parent).find(|c| *c != table && t.role(*c) != Role::Token)
        }
        Role::Member => t.parent(parent).and_then(|c| called(s, c)).and_then(|(_, all)| all.first().copied()),
        _ => None,
    };
    let Some(key) = key else { return true };
    if s.lang.is_module_own(s.str(key)) {
        return project.index(&s.path) == Some(home);
    }
    let name = project.modules().name(home).map(|m| m.parts.join("."));
    let text = unquoted(s, key);
    t.role(key) != Role::Literal
        || name.is_none_or(|n| n == text || text.ends_with(words::stem_of(&project.facts[home].path)))
}

/// A call that loads a module which may be `home`, and hands it over.
fn loads_by_call(project: &Project, s: &Source, call: NodeId, home: usize) -> bool {
    let t = &s.tree;
    let Some((word, arguments)) = called(s, call) else { return false };
    if !s.lang.loading_words().contains(&word) {
        return false;
    }
    // a declaration that binds the module or its names is an import like others
    let declared = t.parent(call).is_some_and(|p| match t.role(p) {
        Role::Assign => t.child(p, Field::Left).is_some_and(|l| {
            t.subtree(l)
                .filter(|n| t.role(*n) == Role::Name)
                .any(|n| s.names.at(n).and_then(|r| r.target).is_some_and(|b| s.names.binding(b).import.is_some()))
        }),
        Role::ExprStmt => true,
        Role::Member => t.parent(p).is_some_and(|a| t.role(a) == Role::Assign),
        _ => false,
    });
    let Some(first) = arguments.first().filter(|_| !declared) else { return false };
    if t.role(*first) != Role::Literal {
        return true;
    }
    let import = s.lang.import_of_text(unquoted(s, *first));
    let (mut seen, mut todo) = (FxHashSet::default(), project.resolved(s, &import));
    while let Some(file) = todo.pop() {
        if file == home {
            return true;
        }
        if seen.insert(file) && project.modules().reaches(file, home) {
            todo.extend(shown_by(project, file));
        }
    }
    false
}

/// The modules that whoever has a module gets through it.
fn shown_by(project: &Project, file: usize) -> Vec<usize> {
    let Ok(s) = project.source(file) else { return Vec::new() };
    let whole = s.lang.passed_on(&s).into_iter().filter(|p| p.name.is_none() || p.import.member.is_none());
    let passed: Vec<usize> = whole.flat_map(|p| project.resolved(&s, &p.import)).collect();
    let bound = s.names.bindings_of(Names::MODULE).filter(|b| s.lang.exports_by_name(&s, *b));
    let modules = bound.filter_map(|b| match project.entity(&s, &s.names.binding(b).name) {
        Entity::Module(m) => Some(m),
        _ => None,
    });
    passed.into_iter().chain(modules).collect()
}

/// A use of a word that may be a module's name when the module is handed on.
pub fn possible_member(
    project: &Project,
    word: &str,
    home: &dyn Language,
    told: &dyn Fn(&Source, NodeId) -> bool,
) -> Option<(Arc<Source>, NodeId)> {
    with_word(project, word, home).find_map(|(_, s)| {
        let t = &s.tree;
        let possible = |n: &NodeId| {
            if !t.is_leaf(*n) || s.str(*n) != word || told(&s, *n) {
                return false;
            }
            match t.role(*n) {
                Role::MemberName => {
                    let key = t.field(*n) == Field::Key && t.parent(*n).is_some_and(|p| t.role(p) == Role::Pair);
                    let object = t.parent(*n).and_then(|p| t.child(p, Field::Object));
                    !key && object.is_none_or(|o| !is_known_object(project, &s, o))
                }
                Role::Literal => unquoted(&s, *n) == word,
                _ => false,
            }
        };
        t.ids().find(possible).map(|n| (s.clone(), n))
    })
}

/// An object that is surely no module of the project: that of a method, or of a module from elsewhere.
fn is_known_object(project: &Project, s: &Source, object: NodeId) -> bool {
    let t = &s.tree;
    let Some(b) = s.names.at(object).and_then(|r| r.target) else { return t.role(object) == Role::Literal };
    let binding = s.names.binding(b);
    if binding.import.is_some() && binding.writes == 1 {
        return matches!(
            project.origin(&project.entity(s, &binding.name)),
            Entity::Foreign(..) | Entity::Module(_) | Entity::Member(..)
        );
    }
    let function = s.names.scope(binding.scope).node;
    crate::index::method::receiver_of(s, function).is_some_and(|(_, r)| r == b)
}

/// Where the project defines what a name or a path of a module stands for.
pub fn definition_of(project: &Project, s: &Source, n: NodeId) -> Option<(Arc<Source>, NodeId)> {
    let t = &s.tree;
    let entity = match t.role(n) {
        Role::Name => {
            let Some(b) = s.names.at(n)?.target else { return project.definition(s, s.str(n)) };
            let binding = s.names.binding(b);
            if binding.scope != crate::names::Names::MODULE {
                let class = t.parent(binding.first).filter(|c| t.role(*c) == Role::Class);
                let own = class.filter(|_| s.names.is_member(b) && binding.space == Space::Types)?;
                return Some((project.source(project.index(&s.path)?).ok()?, own));
            }
            project.origin(&project.entity(s, &binding.name))
        }
        Role::Member => project.meant(s, n)?,
        Role::Type => match project.meant(s, n) {
            Some(found) => found,
            None => return paths::class(project, s, s.str(n)),
        },
        _ => return None,
    };
    let Entity::Member(file, name) = entity else { return None };
    let home = project.source(file).ok()?;
    let binding = home.names.binding(home.names.in_module(&name)?);
    let first = binding.first;
    let definition = if home.tree.role(first).is_definition() { first } else { home.tree.parent(first)? };
    (binding.writes == 1).then_some((home, definition))
}

/// Whether a library demands a member by its name.
pub fn is_demanded(lang: &dyn Language, name: &str) -> bool {
    lang.demanded_members().iter().any(|p| match p.strip_suffix('*') {
        Some(start) => name.starts_with(start),
        None => *p == name,
    })
}

/// A name by which a test runner finds tests, in a file that it looks into.
pub fn is_collected(path: &str, name: &str) -> bool {
    let file = path.to_ascii_lowercase();
    file.contains("test") && (name.starts_with("test") || name.starts_with("Test"))
}

/// A place that a parser could not read and that has the word: what stands there is not known.
pub fn unparsed(project: &Project, word: &str) -> Option<Reason> {
    let broken = |f: &usize| !project.facts[*f].broken.is_empty();
    (0..project.facts.len()).filter(broken).find_map(|f| {
        // most have not the word
        project.text(f).filter(|t| has_whole_word(t, word))?;
        let s = project.source(f).ok()?;
        let t = &s.tree;
        let inside = whole_words(&s.text, word).find(|i| {
            let span = crate::text::Span::new(*i, i + word.len());
            let comment = t.comments().iter().any(|c| c.contains(span));
            !comment && (t.has_error(span) || !t.is_leaf(t.covering(span)))
        })?;
        Some(Reason {
            code: Code::Unparsed,
            message: format!("`{word}` stands in a part of the file that could not be parsed"),
            file: s.path.clone(),
            line: s.lines.line(inside),
        })
    })
}
