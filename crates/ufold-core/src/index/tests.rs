//! What the index tells of small projects: who refers to a name, what a word means, who extends whom, what is loaded
//! when, and who may know a name without saying it.

mod loads;
mod meanings;
mod references;
mod unseen;

/// What is told differs from what is true, if it does.
fn differs<T: PartialEq<U> + std::fmt::Debug, U: std::fmt::Debug>(text: &str, told: T, wanted: U) -> Option<String> {
    (told != wanted).then(|| format!("{text}\n  told:   {told:?}\n  wanted: {wanted:?}\n"))
}

/// All rows of a table that are told otherwise.
fn none(rows: impl Iterator<Item = Option<String>>) {
    let all: Vec<String> = rows.flatten().collect();
    assert!(all.is_empty(), "{} differ\n{}", all.len(), all.join("\n"));
}
