use std::collections::HashMap;
fn main() {
    let path = std::env::args().nth(1).unwrap();
    let text = std::fs::read_to_string(&path).unwrap();
    let lang = ufold_core::lang::for_path(&path).unwrap();
    let s = ufold_core::names::Source::new(&path, text.into(), lang, None).unwrap();
    let t = &s.tree;
    let mut depth: HashMap<_, usize> = HashMap::new();
    for n in t.ids() {
        let d = t.parent(n).map_or(0, |p| depth[&p] + 1);
        depth.insert(n, d);
        let r = s.names.at(n).map(|r| format!("{:?} {:?}", r.usage, r.target)).unwrap_or_default();
        println!(
            "{}{:?}/{:?} {:?} {}",
            "  ".repeat(d),
            t.role(n),
            t.field(n),
            s.str(n).chars().take(40).collect::<String>(),
            r
        );
    }
}
