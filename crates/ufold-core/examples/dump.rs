use ufold_core::{lang, names::Source};
fn main() {
    for path in std::env::args().skip(1) {
        let text = std::fs::read_to_string(&path).unwrap();
        let l = lang::for_path(&path).unwrap();
        let s = Source::new(&path, text.into(), l, None).unwrap();
        for n in s.tree.ids() {
            let d = s.tree.ancestors(n).count();
            let x: String = s.str(n).chars().take(50).collect();
            println!("{}{:?}.{:?} {:?}", "  ".repeat(d), s.tree.field(n), s.tree.role(n), x);
        }
    }
}
