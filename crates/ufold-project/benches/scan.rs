//! Speed of a cold scan, of a second one, and of the rename of a name that stands in 1,000 files, as ratios to only
//! parsing the same files, all in one run, in parallel.
//!
//! `UFOLD_BENCH_DIR=FOLDER cargo bench` measures a real project; without it a made-up one of 40,000 lines is used.

use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use rayon::prelude::*;
use ufold_core::change::Place;
use ufold_core::find::{self, Finding, Options};
use ufold_core::index::Project;
use ufold_core::lang;
use ufold_core::step::{FoldRequest, RenameRequest, Request, plan};
use ufold_project::cache::{self, Cache};
use ufold_project::config::Scan;
use ufold_project::files::{self, Disk};
use ufold_project::state::State;

/// As the program does.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

const ROUNDS: usize = 11;

fn main() {
    let made = tempfile::tempdir().expect("a temporary folder");
    let root = match std::env::var_os("UFOLD_BENCH_DIR") {
        Some(d) => PathBuf::from(d).canonicalize().expect("UFOLD_BENCH_DIR is a folder"),
        None => {
            make(made.path());
            made.path().to_path_buf()
        }
    };
    let config = Scan::default();
    let (list, _) = files::list(&root, &[], &config).expect("the folder can be listed");
    let (mut parsing, mut scanning, mut finding) = (Vec::new(), Vec::new(), Vec::new());
    let mut lines = 0;
    for _ in 0..ROUNDS {
        parsing.push(time(|| parse_all(&root)));
        let mut scanned = None;
        let read = time(|| {
            scanned = Some(files::scan(&root, &[], &config, None, &|_| ()).expect("the folder can be scanned"))
        });
        let scanned = scanned.expect("just scanned");
        lines = scanned.facts.iter().map(|f| u64::from(f.lines)).sum();
        let find = time(|| {
            std::hint::black_box(find::scan(&scanned.facts, &Options::default()));
        });
        finding.push(find);
        scanning.push(read + find);
    }
    let (p, s, f) = (median(parsing), median(scanning), median(finding));
    println!("{} files, {lines} lines, median of {ROUNDS} rounds", list.len());
    println!("only parsing      {:8.1} ms", p.as_secs_f64() * 1e3);
    println!("cold scan         {:8.1} ms", s.as_secs_f64() * 1e3);
    println!("  of it, finding  {:8.1} ms", f.as_secs_f64() * 1e3);
    println!("scan / parsing    {:8.2}     (must: 1.6, aim: 1.3)", s.as_secs_f64() / p.as_secs_f64());
    verdicts(&root, p);
    second_scan(&root, s - f);
    rename();
}

/// Repeats that are planned, the first of the list.
const PLANNED: usize = 200;

/// Plans of many findings, one project for all, as where a list of them is asked for with what can be folded.
fn verdicts(root: &Path, parsing: Duration) {
    let scanned = files::scan(root, &[], &Scan::default(), None, &|_| ()).expect("the folder can be scanned");
    let found = find::scan(&scanned.facts, &Options::default());
    let place = |c: &find::Copy| Place {
        file: scanned.facts[c.file].path.clone(),
        start_line: c.lines.0 as usize,
        end_line: c.lines.1 as usize,
        start_byte: c.bytes.0 as usize,
        end_byte: c.bytes.1 as usize,
    };
    let repeats = found.iter().filter(|f| f.kind == find::Kind::Repeat).take(PLANNED);
    let request = |f: &Finding| {
        let copies = f.copies.iter().map(place).collect();
        Request::Fold(FoldRequest { finding: f.id.clone(), copies, ..FoldRequest::default() })
    };
    let requests: Vec<Request> = repeats.map(request).collect();
    let all = time(|| {
        let disk = Disk::new(root, &scanned);
        let project = Project::new(&scanned.facts, &disk);
        requests.par_iter().for_each(|r| drop(std::hint::black_box(plan(&project, r))));
    });
    let each = all.as_secs_f64() / requests.len().max(1) as f64;
    println!("{:3} plans         {:8.1} ms", requests.len(), all.as_secs_f64() * 1e3);
    println!("a plan / parsing  {:8.3}", each / parsing.as_secs_f64());
}

/// Nothing changed since the last scan; without finding, which is done anew.
fn second_scan(root: &Path, cold: Duration) {
    let base = tempfile::tempdir().expect("a temporary folder");
    let state = State::below(base.path(), root);
    // files just written are not kept
    std::thread::sleep(Duration::from_secs(5));
    let scan = || {
        let cache = Cache::open(&state).expect("there is room for a cache");
        std::hint::black_box(
            files::scan(root, &[], &Scan::default(), Some(cache), &|_| ()).expect("it can be scanned"),
        );
    };
    scan();
    let again = median((0..ROUNDS).map(|_| time(scan)).collect());
    println!("second reading    {:8.1} ms", again.as_secs_f64() * 1e3);
    println!("second / first    {:8.2}     (must: 0.10, aim: 0.05)", again.as_secs_f64() / cold.as_secs_f64());
    kept_findings(root, &state);
}

/// The list of findings of an earlier run, against finding them.
fn kept_findings(root: &Path, state: &State) {
    let cache = Cache::open(state).expect("there is room for a cache");
    let scanned = files::scan(root, &[], &Scan::default(), Some(cache), &|_| ()).expect("it can be scanned");
    let key = scanned.digest.expect("there was a cache");
    let found = find::scan(&scanned.facts, &Options::default());
    cache::keep(state, &key, &found);
    let finding = (0..ROUNDS).map(|_| time(|| drop(find::scan(&scanned.facts, &Options::default()))));
    let finding = median(finding.collect());
    let kept = || assert_eq!(cache::kept::<Vec<Finding>>(state, &key).expect("kept").len(), found.len());
    let kept = median((0..ROUNDS).map(|_| time(kept)).collect());
    println!("kept findings     {:8.1} ms", kept.as_secs_f64() * 1e3);
    println!("kept / found      {:8.2}     (must: 0.20)", kept.as_secs_f64() / finding.as_secs_f64());
}

/// A function that 1,000 files import and call.
fn rename() {
    let made = tempfile::tempdir().expect("a temporary folder");
    let root = made.path();
    let write = |name: &str, text: &str| std::fs::write(root.join(name), text).expect("a file can be written");
    let home = "def due(hours):\n    return hours * 7\n";
    write("fees.py", home);
    for n in 0..1000 {
        let berth = |k: usize| {
            format!(
                "def berth_{n}_{k}(hours, tons):\n    total = due(hours) + {k}\n    return total * tons + {n}\n\n\n"
            )
        };
        write(&format!("quay{n}.py"), &format!("from fees import due\n\n\n{}", (0..20).map(berth).collect::<String>()));
    }
    let scanned = files::scan(root, &[], &Scan::default(), None, &|_| ()).expect("it can be scanned");
    let disk = Disk::new(root, &scanned);
    let place = Place { file: "fees.py".into(), start_byte: 4, end_byte: 7, start_line: 1, end_line: 1 };
    let request = Request::Rename(RenameRequest { finding: "fees.py:due".into(), place, name: "owed".into() });
    let step = || {
        let plan = plan(&Project::new(&scanned.facts, &disk), &request);
        assert_eq!(plan.result.files.len(), 1001, "{:?}", plan.result.reasons);
    };
    let parsing = median((0..ROUNDS).map(|_| time(|| parse_all(root))).collect());
    let renaming = median((0..ROUNDS).map(|_| time(step)).collect());
    println!("rename in 1,001 files {:8.1} ms", renaming.as_secs_f64() * 1e3);
    println!(
        "rename / parsing  {:8.2}     (it reads and audits: each file is parsed twice)",
        renaming.as_secs_f64() / parsing.as_secs_f64()
    );
}

fn time(f: impl FnOnce()) -> Duration {
    let start = Instant::now();
    f();
    start.elapsed()
}

fn median(mut list: Vec<Duration>) -> Duration {
    list.sort();
    list[list.len() / 2]
}

/// Lists, reads and parses with tree-sitter, and nothing else.
fn parse_all(root: &Path) {
    let (list, _) = files::list(root, &[], &Scan::default()).expect("the folder can be listed");
    list.par_iter().for_each(|path| {
        let Some(lang) = lang::for_path(path) else { return };
        let Ok(text) = files::read(root, path) else { return };
        if files::written_elsewhere(path, &text, lang).is_some() {
            return;
        }
        let mut parser = tree_sitter::Parser::new();
        parser.set_language(&lang.grammar().language).expect("the grammar fits");
        std::hint::black_box(parser.parse(&*text, None));
    });
}

/// The example project many times over, each time with other names.
fn make(root: &Path) {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../ufold/demo/saltmarsh/harbour");
    let modules: Vec<(String, String)> = std::fs::read_dir(demo)
        .expect("the example is there")
        .flatten()
        .filter_map(|e| Some((e.file_name().into_string().ok()?, std::fs::read_to_string(e.path()).ok()?)))
        .collect();
    for n in 0..85 {
        let dir = root.join(format!("port{n}"));
        std::fs::create_dir(&dir).expect("a folder can be made");
        for (name, text) in &modules {
            let text = text.replace("row", &format!("row{n}")).replace("call", &format!("call{}", n % 7));
            std::fs::write(dir.join(name), text).expect("a file can be written");
        }
    }
}
