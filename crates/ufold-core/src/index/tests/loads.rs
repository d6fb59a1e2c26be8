//! What is loaded when: by imports at the top, by those in functions, round circles, by unknown names.

use super::{differs, none};
use crate::memory::MarkedProject;

/// Other files in the order in which loading the marked one loads them.
fn order(text: &str) -> Vec<String> {
    let marked = MarkedProject::new(text);
    let order = marked.ask(|project, _, _| project.modules().order_of_loading(marked.word.0));
    order.into_iter().map(|f| marked.files[f].0.clone()).collect()
}

#[test]
fn files_in_the_order_of_loading() {
    let rows = [
        ("--- a.py\nimport b\n‹x› = 1\n--- b.py\nimport c\n--- c.py\ny = 1\n", &["c.py", "b.py"] as &[&str]),
        ("--- a.py\nimport c\nimport b\n‹x› = 1\n--- b.py\nimport c\n--- c.py\ny = 1\n", &["c.py", "b.py"]),
        ("--- a.py\n‹x› = 1\ndef f():\n    import b\n--- b.py\ny = 1\n", &[]),
        ("--- a.py\nimport b\n‹x› = 1\n--- b.py\nimport a\n", &["b.py"]),
        (
            "--- a.py\nimport port.tides\n‹x› = 1\n--- port/__init__.py\ny = 1\n--- port/tides.py\nz = 1\n",
            &["port/__init__.py", "port/tides.py"],
        ),
        ("--- a.mjs\nconst ‹x› = 1;\nimport './b.mjs';\n--- b.mjs\nexport {};\n", &["b.mjs"]),
        (
            "--- a.mjs\nexport * from './b.mjs';\nconst ‹x› = await import('./c.mjs');\n--- b.mjs\nexport {};\n--- c.mjs\nexport {};\n",
            &["b.mjs", "c.mjs"],
        ),
        ("--- a.js\nconst ‹x› = require('./b');\n--- b.js\nrequire('./c');\n--- c.js\n1;\n", &["c.js", "b.js"]),
    ];
    none(rows.into_iter().map(|(text, expected)| differs(text, order(text), expected)));
}

/// Whether loading the marked file comes to load `b`, takes a name of it while it loads, and reaches it at any time.
fn reached(text: &str) -> (bool, bool, bool) {
    let marked = MarkedProject::new(text);
    let to = marked.files.iter().position(|f| f.0.starts_with("b.")).expect("there is a `b`");
    marked.ask(|project, _, _| {
        let (m, from) = (project.modules(), marked.word.0);
        (m.loads(from, to), m.takes_when_loaded(from, to), m.reaches(from, to))
    })
}

#[test]
fn ways_to_a_file() {
    let rows = [
        ("--- a.py\nimport b\n‹x› = 1\n--- b.py\ny = 1\n", (true, true, true)),
        ("--- a.py\nfrom b import y\n‹x› = 1\n--- b.py\ny = 1\n", (true, true, true)),
        ("--- a.py\ndef ‹f›():\n    from b import y\n    return y\n--- b.py\ny = 1\n", (false, false, true)),
        ("--- a.py\nimport c\n‹x› = 1\n--- c.py\nfrom b import y\n--- b.py\ny = 1\n", (true, true, true)),
        ("--- a.py\n‹x› = 1\n--- b.py\nimport a\n", (false, false, false)),
        ("--- a.js\nfunction ‹f›() { return require('./b'); }\n--- b.js\n1;\n", (false, false, true)),
    ];
    none(rows.into_iter().map(|(text, expected)| differs(text, reached(text), expected)));
}
