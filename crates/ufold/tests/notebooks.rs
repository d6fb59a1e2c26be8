//! Steps on notebooks: the cells are run before and after, one after the other, with what they show; all but the sources of
//! changed cells stays as it was.
//!
//! A case is one of [`common::Case`], the cells of a notebook parted by `###`; the first file is run.

mod common;

use std::path::Path;
use std::process::Command;

use common::{Case, has, load, ufold};
use serde_json::{Value, json};

/// Runs the cells as a notebook does: the last expression of each is shown.
const RUN: &str = r#"
import ast, json, sys
space = {}
for cell in json.load(open(sys.argv[1]))["cells"]:
    source = "".join(cell["source"])
    if cell["cell_type"] != "code" or source.startswith("%%"):
        continue
    lines = [l for l in source.splitlines() if not l.lstrip().startswith(("%", "!"))]
    body = ast.parse("\n".join(lines)).body
    last = body.pop() if body and isinstance(body[-1], ast.Expr) else None
    exec(compile(ast.Module(body, []), "cell", "exec"), space)
    value = last and eval(compile(ast.Expression(last.value), "cell", "eval"), space)
    if value is not None:
        print("shown", repr(value))
"#;

fn notebook(cells: &str) -> String {
    let lines = |text: &str| text.trim_end_matches('\n').split_inclusive('\n').map(Value::from).collect::<Vec<_>>();
    let cell = |(i, text): (usize, &str)| {
        let outputs = json!([{"output_type": "stream", "name": "stdout", "text": [format!("kept {i}\n")]}]);
        json!({"cell_type": "code", "execution_count": i, "metadata": {"kept": [i]}, "outputs": outputs, "source": lines(text)})
    };
    let list: Vec<Value> = cells.split("###\n").enumerate().map(cell).collect();
    let whole =
        json!({"cells": list, "metadata": {"language_info": {"name": "python"}}, "nbformat": 4, "nbformat_minor": 5});
    serde_json::to_string_pretty(&whole).expect("plain data") + "\n"
}

fn run(dir: &Path, file: &str) -> String {
    let out = Command::new("python3").args(["-B", "-c", RUN, file]).current_dir(dir).output().expect("it runs");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    String::from_utf8_lossy(&out.stdout).into_owned()
}

/// The file without the sources of its cells, and these.
fn parts(dir: &Path, file: &str) -> (Value, String) {
    let text = std::fs::read_to_string(dir.join(file)).expect("it is there");
    let mut all: Value = serde_json::from_str(&text).expect("JSON");
    let mut sources = String::new();
    for cell in all["cells"].as_array_mut().expect("cells") {
        let lines = cell["source"].take();
        lines.as_array().into_iter().flatten().for_each(|l| sources.push_str(l.as_str().unwrap_or("")));
        sources.push('\n');
    }
    (all, sources)
}

fn trial(case: &Case) -> Result<(), String> {
    let dir = case.lay_out();
    let main = case.files[0].0.as_str();
    std::fs::write(dir.path().join(main), notebook(&case.files[0].1)).expect("files can be written");
    let before = (run(dir.path(), main), parts(dir.path(), main).0);
    let raw = std::fs::read(dir.path().join(main)).expect("it is there");
    let mut args: Vec<String> = case.command();
    args.extend(["--no-check".into(), "--format".into(), "json".into()]);
    let words: Vec<&str> = args.iter().map(String::as_str).collect();
    let done = ufold(dir.path(), &words);
    let said = format!("{}{}", String::from_utf8_lossy(&done.stdout), String::from_utf8_lossy(&done.stderr));
    let (verdict, code) = case.get("expect").split_once(' ').unwrap_or((case.get("expect"), ""));
    let exit = match verdict {
        "refused" => 3,
        "wrong" => 2,
        _ => 0,
    };
    if done.status.code() != Some(exit) || !said.contains(code) {
        return Err(format!("expected {verdict} {code}: {said}"));
    }
    if verdict == "ready" && !said.contains("\"verdict\":\"ready\"") {
        return Err(format!("not ready: {said}"));
    }
    let (kept, sources) = parts(dir.path(), main);
    let after = run(dir.path(), main);
    if after != before.0 || kept != before.1 {
        return Err(format!("another program, or another file\n{}---\n{after}{sources}", before.0));
    }
    if let Some(lost) = case.all("see").find(|t| !sources.contains(t.trim())) {
        return Err(format!("lacks `{lost}`\n{sources}"));
    }
    if let Some(left) = case.all("not").find(|t| sources.contains(t.trim())) {
        return Err(format!("has `{left}`\n{sources}"));
    }
    if exit == 0 && verdict != "done" {
        let undone = ufold(dir.path(), &["undo"]);
        let back = std::fs::read(dir.path().join(main)).expect("it is there");
        if !undone.status.success() || back != raw {
            return Err("undo does not give the same file back".into());
        }
    }
    Ok(())
}

#[test]
fn steps_in_cells() {
    if !has("python3") {
        return;
    }
    let list = load("notebooks.txt");
    let failures: Vec<String> =
        list.iter().filter_map(|c| trial(c).err().map(|e| format!("=== {}\n{e}", c.name))).collect();
    assert!(failures.is_empty(), "{} of {} cases fail\n{}", failures.len(), list.len(), failures.join("\n"));
}

/// Notebooks that can't be read are passed over with the reason; the script of one prints what its cells show.
#[test]
fn scripts_of_notebooks() {
    if !has("python3") {
        return;
    }
    let dir = tempfile::tempdir().expect("a temporary folder");
    let write = |name: &str, text: &str| std::fs::write(dir.path().join(name), text).expect("files can be written");
    write("tides.ipynb", &notebook("level = 3\nlevel + 1\n###\n%time level\nprint('low')\n[level]\n"));
    write("other.ipynb", &notebook("x <- 3\n").replace("python", "R"));
    write("old.ipynb", "{\"nbformat\": 3, \"worksheets\": [], \"cells\": []}");
    let out = ufold(dir.path(), &["scan", "--format", "json"]);
    let text = String::from_utf8_lossy(&out.stdout).into_owned();
    assert!(text.contains("a notebook of R") && text.contains("nbformat 3"), "{text}");
    let done = ufold(dir.path(), &["notebook", "tides.ipynb", "-o", "tides.py"]);
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let kept = std::fs::read_to_string(dir.path().join("ufold-recordings/tides/expected/stdout"));
    let script = std::fs::read_to_string(dir.path().join("tides.py")).expect("it was written");
    assert_eq!(script, "level = 3\nprint(level + 1)\n\n# %time level\nprint('low')\nprint([level])\n");
    let printed = Command::new("python3").arg("tides.py").current_dir(dir.path()).output().expect("it runs").stdout;
    assert_eq!(String::from_utf8_lossy(&printed), "4\nlow\n[3]\n");
    assert!(kept.is_err() || kept.is_ok_and(|k| k == "4\nlow\n[3]\n"));
    let again = ufold(dir.path(), &["notebook", "tides.ipynb", "-o", "tides.py"]);
    assert_eq!(again.status.code(), Some(2));
    let quiet = ["notebook", "tides.ipynb", "-o", "quiet.py", "--without-display", "--no-recording"];
    assert!(ufold(dir.path(), &quiet).status.success());
    assert_eq!(
        std::fs::read_to_string(dir.path().join("quiet.py")).expect("it was written"),
        "level = 3\n\n# %time level\n"
    );
}
