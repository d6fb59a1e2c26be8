use ufold_core::{lang, tree};
fn main() {
    let p = std::env::args().nth(1).unwrap();
    let text = std::fs::read_to_string(&p).unwrap();
    let l = lang::for_path(&p).unwrap();
    let t = tree::parse(&text, l).unwrap();
    for n in t.ids() {
        let depth = t.ancestors(n).count();
        let s = t.text(n, &text);
        println!("{}{:?} {:?} {:?}", "  ".repeat(depth), t.role(n), t.field(n), s.chars().take(40).collect::<String>());
    }
}
