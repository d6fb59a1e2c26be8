//! What the path of a file tells of it.

/// In a folder of tests, or a file of them.
pub fn is_test(path: &str) -> bool {
    path.split('/').any(is_test_name)
}

/// What a runner takes for a file of tests by its own name.
pub fn is_test_file(path: &str) -> bool {
    is_test_name(path.rsplit('/').next().unwrap_or(path))
}

/// In a folder that by custom has what programs put together.
pub fn is_output(path: &str) -> bool {
    const FOLDERS: &[&str] =
        &["dist", "build", "out", "output", "bundle", "bundles", "public", "static", "assets", "release", "generated"];
    path.rsplit_once('/').is_some_and(|(folders, _)| folders.split('/').any(|f| FOLDERS.contains(&f)))
}

fn is_test_name(name: &str) -> bool {
    let name = name.rsplit_once('.').map_or(name, |x| x.0).to_ascii_lowercase();
    let ends = ["_test", ".test", ".spec", "-test"].iter().any(|e| name.ends_with(e));
    ["test", "tests", "conftest", "__tests__", "spec"].contains(&name.as_str()) || name.starts_with("test_") || ends
}

/// A file for people, which builds nothing.
pub fn is_prose(path: &str) -> bool {
    let path = path.to_ascii_lowercase();
    [".md", ".rst", ".txt", ".log"].iter().any(|e| path.ends_with(e))
}
