//! What classes and their members say of themselves: who may use them, what is of the class and what of its objects.

use crate::lang::Reach;
use crate::names::{BindingId, Names, ScopeKind, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};

/// Whether what a bare name reaches in its file is surely what it means: no class on the way could have inherited another
/// one of that name.
pub fn is_sure(source: &Source, name: NodeId) -> bool {
    let (t, names) = (&source.tree, &source.names);
    let Some(r) = names.at(name) else { return true };
    let home = r.target.map(|b| names.binding(b).scope);
    if r.target.is_some_and(|b| !names.is_member(b) && names.binding(b).scope != Names::MODULE) {
        return true;
    }
    let inner = names.scope_chain(r.scope).take_while(|s| Some(*s) != home);
    inner.filter(|s| names.scope(*s).kind == ScopeKind::Class).all(|s| !may_have_more(source, t, names.scope(s).node))
}

/// A class that extends another one, or of which other files have a part.
fn may_have_more(source: &Source, t: &Tree, class: NodeId) -> bool {
    t.child(class, Field::Bases).is_some() || super::has_word(source, class, "partial")
}

/// Who sees a member by its modifiers.
pub fn reach_of(source: &Source, declaration: NodeId) -> Reach {
    let t = &source.tree;
    // a field's word is that of its declaration
    let field = t.parent(declaration).filter(|f| t.role(declaration) == Role::Assign && t.role(*f) == Role::ClassField);
    let declaration = field.unwrap_or(declaration);
    let says = |w: &str| super::has_word(source, declaration, w);
    let class = t.ancestor(declaration, &[Role::Class]);
    let promised = class.is_some_and(|c| ["interface", "enum"].contains(&class_word(source, c)));
    match () {
        _ if says("public") || promised && !says("private") => Reach::All,
        _ if class.is_none() => Reach::Near,
        _ if says("internal") => Reach::Near,
        _ if says("protected") => Reach::Below,
        _ => Reach::Own,
    }
}

pub fn class_word_in<'s>(t: &Tree, text: &'s str, class: NodeId) -> &'s str {
    let Some(name) = t.child(class, Field::Name) else { return "" };
    text[t.span(class).start..t.span(name).start].split_whitespace().last().unwrap_or("")
}

/// `class`, `struct`, `interface`, `enum` or `record`.
pub fn class_word(source: &Source, class: NodeId) -> &str {
    let word = class_word_in(&source.tree, &source.text, class);
    let head = &source.text[source.tree.span(class).start..];
    if word == "struct" && head.split('{').next().is_some_and(|h| h.contains("record struct")) {
        "record"
    } else {
        word
    }
}

/// A class that gives what it has to those that extend it, and of which the file has all.
pub fn hands_down(source: &Source, class: NodeId) -> bool {
    let t = &source.tree;
    let says = |w: &str| super::has_word(source, class, w);
    let plain = t.role(class) == Role::Class && class_word(source, class) == "class" && t.is_outermost(class);
    plain && !says("partial") && !says("static")
}

/// The declarations of a member.
fn declarations(source: &Source, member: BindingId) -> Vec<NodeId> {
    let t = &source.tree;
    let names = source.names.references_to(member).filter(|r| r.usage == Use::Write).map(|r| r.node);
    let all = names.chain([source.names.binding(member).first]).filter_map(|n| t.parent(n));
    let up = |p: NodeId| if t.role(p) == Role::Assign { t.parent(p).unwrap_or(p) } else { p };
    all.map(up)
        .filter(|d| matches!(t.role(*d), Role::Function | Role::ClassField | Role::Class | Role::TypeAlias))
        .collect()
}

/// A member of the class itself: all declarations of the name say so, or the place does.
pub fn is_static(source: &Source, member: BindingId) -> bool {
    let t = &source.tree;
    let by_kind = |d: NodeId| {
        let constant = t.role(d) == Role::ClassField
            && (super::has_word(source, d, "const")
                || t.child(d, Field::Type).is_none() && t.child(d, Field::Name).is_some());
        constant || matches!(t.role(d), Role::Class | Role::TypeAlias)
    };
    let all = declarations(source, member);
    !all.is_empty() && all.iter().all(|d| by_kind(*d) || super::has_word(source, *d, "static"))
}

/// A field that gets its value once.
pub fn is_final(source: &Source, member: BindingId) -> bool {
    let all = declarations(source, member);
    let t = &source.tree;
    // a property that only what makes the object can set
    let only_read = |d: NodeId| {
        let mut own = t.children(d).filter(|c| t.role(*c) == Role::Function).filter_map(|f| t.child(f, Field::Name));
        t.role(d) == Role::ClassField && t.child(d, Field::Name).is_some() && !own.any(|n| source.str(n) == "set")
    };
    let said = |d: NodeId| ["readonly", "const"].iter().any(|w| super::has_word(source, d, w));
    !all.is_empty() && all.iter().all(|d| said(*d) || only_read(*d))
}

/// A member that is a pair of functions.
pub fn is_property(source: &Source, member: BindingId) -> bool {
    let t = &source.tree;
    let parent = t.parent(source.names.binding(member).first).filter(|p| t.role(*p) == Role::ClassField);
    parent.is_some_and(|p| t.child(p, Field::Name).is_some() && t.children(p).any(|c| t.role(c) == Role::Function))
}

/// A bare name of a property that does something.
pub fn runs_when_read(source: &Source, name: NodeId) -> bool {
    let t = &source.tree;
    let Some(b) = source.names.at(name).and_then(|r| r.target).filter(|b| source.names.is_member(*b)) else {
        return false;
    };
    let Some(declared) = t.parent(source.names.binding(b).first) else { return false };
    let mut functions = t.children(declared).filter(|c| t.role(*c) == Role::Function);
    // a class below may have another one
    let open = ["virtual", "abstract", "override"].iter().any(|w| super::has_word(source, declared, w));
    is_property(source, b) && (open || functions.any(|f| t.child(f, Field::Body).is_some()))
}

/// By custom: `IShip`
pub fn is_interface_name(name: &str) -> bool {
    let mut chars = name.chars();
    chars.next() == Some('I') && chars.next().is_some_and(char::is_uppercase)
}

/// Methods that ask the compiler for the name, the file or the line of who calls them.
pub fn asking(t: &Tree, text: &str) -> Vec<String> {
    if !text.contains("[Caller") {
        return Vec::new();
    }
    let words = ["[CallerMemberName", "[CallerLineNumber", "[CallerFilePath", "[CallerArgumentExpression"];
    let asks = |f: &NodeId| {
        let list = t.child(*f, Field::Parameters).filter(|_| t.role(*f) == Role::Function);
        list.is_some_and(|l| words.iter().any(|w| t.text(l, text).contains(w)))
    };
    t.ids().filter(asks).filter_map(|f| t.child(f, Field::Name)).map(|n| t.text(n, text).to_string()).collect()
}

/// The same of a call of a method of the file.
pub fn tells_caller(source: &Source, call: NodeId) -> bool {
    let t = &source.tree;
    let Some(callee) = t.child(call, Field::Callee) else { return false };
    let word = source.str(t.child(callee, Field::Member).unwrap_or(callee));
    asking(t, &source.text).iter().any(|a| a == word)
}
