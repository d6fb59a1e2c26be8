//! Several results of a method as one value: a record, or before Java 16 a small class.

use super::has_word;
use super::scopes::class_word;
use crate::lang::{Bundle, Bundled, Held, Reach};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// Names that no component of a record may have (JLS 8.10.1).
const TAKEN: &[&str] =
    &["clone", "finalize", "getClass", "hashCode", "notify", "notifyAll", "toString", "wait", "equals"];

/// The edition that has records.
const RECORDS: u8 = 16;

pub fn is_short(members: &[(String, String)], edition: u8) -> bool {
    edition >= RECORDS && !members.iter().any(|(_, name)| TAKEN.contains(&name.as_str()))
}

pub fn write(b: &Bundle, indent: &str, unit: &str) -> String {
    let reach = match b.reach {
        Reach::Own => "private ",
        Reach::Near => "",
        Reach::Below => "protected ",
        Reach::All => "public ",
    };
    let name = &b.name;
    let list: Vec<String> = b.members.iter().map(|(of, name)| format!("{of} {name}")).collect();
    let list = list.join(", ");
    if b.is_short {
        return format!("{indent}{reach}record {name}({list}) {{\n{indent}}}\n");
    }
    let open = if b.reach > Reach::Near { "public " } else { "" };
    let field = |(of, name): &(String, String)| format!("{indent}{unit}{open}final {of} {name};\n");
    let fields: String = b.members.iter().map(field).collect();
    let given: String =
        b.members.iter().map(|(_, name)| format!("{indent}{unit}{unit}this.{name} = {name};\n")).collect();
    format!(
        "{indent}{reach}static final class {name} {{\n{fields}\n{indent}{unit}{name}({list}) {{\n{given}{indent}{unit}}}\n{indent}}}\n"
    )
}

/// The call's value in a variable, and each result out of it.
pub fn unpacked(value: &str, indent: &str, b: &Bundled, targets: &[crate::lang::Target]) -> String {
    let mut out = format!("{} {} = {value}", b.of_type, b.variable);
    for t in targets {
        let word = t.declared.as_ref().map_or(String::new(), |w| format!("{w} "));
        let call = if b.is_short { "()" } else { "" };
        out.push_str(&format!("\n{indent}{word}{} = {}.{}{call};", t.name, b.variable, t.from));
    }
    out
}

/// What a class holds, when it does nothing but hold it.
pub fn held(s: &Source, class: NodeId) -> Option<Held> {
    let t = &s.tree;
    let body = t.child(class, Field::Body)?;
    let inside: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Token).collect();
    let typed = |p: NodeId| {
        let plain = t.children(p).all(|c| t.role(c) != Role::Decorator) && !s.str(p).contains("...");
        Some((t.child(p, Field::Type)?, t.child(p, Field::Name)?)).filter(|_| plain)
    };
    let reach = super::scopes::reach_of(s, class);
    let of_list = |list: NodeId| t.children(list).map(typed).collect::<Option<Vec<_>>>();
    if class_word(s, class) == "record" {
        let all = of_list(t.child(class, Field::Parameters)?)?;
        let alone = inside.is_empty() && t.child(class, Field::Bases).is_none();
        return alone.then_some(Held { parts: all, by_call: true, reach });
    }
    let (constructor, fields) = inside.split_last()?;
    let all = of_list(t.child(*constructor, Field::Parameters)?)?;
    let text = |n: NodeId| s.str(n).split_whitespace().collect::<Vec<_>>().join(" ");
    let name = s.str(t.child(class, Field::Name)?);
    let list: Vec<String> = all.iter().map(|(of, name)| format!("{} {}", s.str(*of), s.str(*name))).collect();
    let given: String = all.iter().map(|(_, n)| format!("this.{0} = {0}; ", s.str(*n))).collect();
    let open = if reach > Reach::Near { "public " } else { "" };
    let declared: Vec<String> = list.iter().map(|p| format!("{open}final {p};")).collect();
    let plain = class_word(s, class) == "class"
        && has_word(s, class, "static")
        && t.role(*constructor) == Role::Function
        && text(*constructor) == format!("{name}({}) {{ {given}}}", list.join(", "))
        && fields.iter().map(|f| text(*f)).eq(declared);
    plain.then_some(Held { parts: all, by_call: false, reach })
}
