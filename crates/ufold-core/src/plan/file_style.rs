//! How the names of a folder's files are written, for one more.

use crate::index::Project;
use crate::names::Source;

/// How the names of files are written.
#[derive(Clone, Copy)]
pub(crate) enum Style {
    Underscore,
    Hyphen,
    Hump,
    /// Humps, and the first letter too.
    Camel,
}

impl Style {
    /// That of the files of the folder, else of all of the language.
    pub(crate) fn of(project: &Project, s: &Source, folder: &str) -> Style {
        let mine = |f: &&crate::find::FileFacts| f.language == s.lang.name();
        let near = |f: &&crate::find::FileFacts| f.path.starts_with(folder) && !f.path[folder.len()..].contains('/');
        let stems = |all: bool| {
            let files = project.facts.iter().filter(mine).filter(|f| all || near(f));
            files
                .map(|f| f.path.rsplit('/').next().unwrap_or(&f.path))
                .filter_map(|n| n.split('.').next().map(str::to_string))
                .collect::<Vec<_>>()
        };
        let joined = |stem: &String| {
            let stem = stem.trim_matches('_');
            let inner = stem.chars().zip(stem.chars().skip(1)).any(|(a, b)| a.is_lowercase() && b.is_uppercase());
            match () {
                _ if stem.contains('_') => Some(Style::Underscore),
                _ if stem.contains('-') => Some(Style::Hyphen),
                _ if inner && stem.starts_with(char::is_uppercase) => Some(Style::Camel),
                _ if inner => Some(Style::Hump),
                _ => None,
            }
        };
        let most = |stems: Vec<String>| {
            let mut counts = [0usize; 4];
            stems.iter().filter_map(joined).for_each(|style| counts[style as usize] += 1);
            let all = [Style::Underscore, Style::Hyphen, Style::Hump, Style::Camel];
            all.into_iter().filter(|x| counts[*x as usize] > 0).max_by_key(|x| counts[*x as usize])
        };
        most(stems(false)).or_else(|| most(stems(true))).unwrap_or(Style::Underscore)
    }

    pub(crate) fn joint(self) -> &'static str {
        match self {
            Style::Underscore => "_",
            Style::Hyphen => "-",
            Style::Hump | Style::Camel => "",
        }
    }

    pub(crate) fn write(self, words: &[String]) -> String {
        let upper = |w: &String| w[..1].to_uppercase() + &w[1..];
        let ascii: Vec<String> =
            words.iter().map(|w| w.chars().filter(char::is_ascii_alphanumeric).collect()).collect();
        let ascii: Vec<String> = ascii.into_iter().filter(|w: &String| !w.is_empty()).collect();
        match self {
            Style::Underscore | Style::Hyphen => ascii.join(self.joint()),
            Style::Camel => ascii.iter().map(upper).collect(),
            Style::Hump => ascii.iter().enumerate().map(|(i, w)| if i == 0 { w.clone() } else { upper(w) }).collect(),
        }
    }
}
