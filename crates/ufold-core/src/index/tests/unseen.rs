//! Who may know a name without saying it.

use super::{differs, none};
use crate::index::{unseen, users};
use crate::memory::MarkedProject;

/// Lines of files that may look the marked name up in its file.
fn lookups(text: &str) -> Vec<String> {
    let marked = MarkedProject::new(text);
    let path = marked.files[marked.word.0].0.clone();
    marked.ask(|project, s, word| {
        let found = unseen::lookups(project, s.str(word), unseen::Within::File(&path));
        found.iter().map(|r| format!("{} {}:{}", r.code, r.file, r.line)).collect()
    })
}

#[test]
fn names_that_may_be_looked_up() {
    let rows = [
        ("print(net)\n", &[] as &[&str]),
        ("print(globals()[name])\n", &["looked-up fees.py:2"]),
        ("print(globals()['n' + word])\n", &["looked-up fees.py:2"]),
        ("print(getattr(sys.modules[__name__], name))\n", &["looked-up fees.py:2"]),
        ("print(getattr(ship, name))\n", &["looked-up fees.py:2"]),
    ];
    none(
        rows.into_iter()
            .map(|(main, expected)| differs(main, lookups(&format!("--- fees.py\n‹net› = 1\n{main}")), expected)),
    );
}

#[test]
fn files_that_are_handed_on() {
    let rows = [
        ("import fees\nprint(fees.net)\n", 0),
        ("import fees\nshow(fees)\n", 1),
        ("import fees\nmodules = [fees]\n", 1),
        ("import fees as f\nother = f\n", 1),
    ];
    none(rows.into_iter().map(|(main, expected)| {
        let text = format!("--- fees.py\n‹net› = 1\n--- main.py\n{main}");
        let marked = MarkedProject::new(&text);
        let found = marked.ask(|project, _, _| unseen::handed_on(project, 0).len());
        differs(main, found, expected)
    }));
}

#[test]
fn names_that_are_given_once() {
    let rows = [
        ("--- a.py\n‹x› = 1\n", true),
        ("--- a.py\n‹x› = 1\nx = 2\n", false),
        ("--- a.py\n‹x› = 1\ndef f():\n    global x\n    x = 2\n", false),
        ("--- a.py\ndef ‹f›():\n    pass\n", true),
        ("--- a.js\nlet ‹x› = 1;\nconst f = () => { x = 2; };\n", false),
        ("--- a.js\nconst ‹x› = 1;\n", true),
        ("--- a.ts\ninterface ‹X› { n: number }\nconst X = { n: 1 };\n", true),
        ("--- a.mjs\nimport { x as ‹y› } from './b.mjs';\n--- b.mjs\nexport const x = 1;\n", true),
        (
            "--- a.mjs\nimport { x as ‹y› } from './b.mjs';\n--- b.mjs\nexport let x = 1;\nexport const f = () => { x++; };\n",
            false,
        ),
    ];
    none(rows.into_iter().map(|(text, expected)| {
        let marked = MarkedProject::new(text);
        let found = marked.ask(|_, s, word| {
            let target = s.names.at(word).and_then(|r| r.target).expect("it is bound");
            users::is_given_once(s, target)
        });
        differs(text, found, expected)
    }));
}
