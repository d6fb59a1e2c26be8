//! How files find each other: by the names of their classes, wherever they stand.
//!
//! Name spaces say nothing of files, and are not asked: a name that two files give to classes is none that is known.

use crate::lang::ModuleName;
use crate::names::ImportRef;

pub fn module_name(path: &str) -> Option<ModuleName> {
    let stem = path.strip_suffix(".cs")?;
    let parts = stem.split('/').map(str::to_string).collect();
    Some(ModuleName { base: String::new(), parts, is_package: false, in_package: false })
}

/// What nothing in a file binds may be a class of another one.
pub fn import_of_free(name: &str) -> Option<ImportRef> {
    let class = name.starts_with(char::is_uppercase) && name.chars().all(|c| c.is_alphanumeric() || c == '_');
    class.then(|| ImportRef { level: 0, module: String::new(), member: Some(name.to_string()), wildcard: false })
}
