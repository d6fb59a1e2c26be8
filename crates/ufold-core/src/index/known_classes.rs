//! Classes that a project was asked for, kept by the word or file that was asked.

use std::sync::{Arc, Mutex};

use rustc_hash::FxHashMap;

use crate::names::Source;
use crate::tree::NodeId;
use crate::types::Ty;

#[derive(Clone)]
pub(crate) struct Class {
    pub source: Arc<Source>,
    pub node: NodeId,
    pub ty: Ty,
    pub above: Vec<Ty>,
}

/// What a project was asked of its classes. Its texts stay as they are, and so do these.
#[derive(Default)]
pub(crate) struct KnownClasses {
    words: Mutex<By<(&'static str, String)>>,
    files: Mutex<By<String>>,
}

/// Classes that are kept by words: of a large hierarchy each word may have thousands.
const MOST_KEPT: usize = 400_000;

struct By<K> {
    all: FxHashMap<K, Arc<[Class]>>,
    /// Classes in all of these.
    kept: usize,
}

impl<K> Default for By<K> {
    fn default() -> Self {
        By { all: FxHashMap::default(), kept: 0 }
    }
}

impl KnownClasses {
    pub fn of_word(&self, language: &'static str, word: &str, make: impl FnOnce() -> Vec<Class>) -> Arc<[Class]> {
        kept(&self.words, (language, word.to_string()), make)
    }

    pub fn of_file(&self, path: &str, make: impl FnOnce() -> Vec<Class>) -> Arc<[Class]> {
        kept(&self.files, path.to_string(), make)
    }
}

fn kept<K: std::hash::Hash + Eq>(by: &Mutex<By<K>>, key: K, make: impl FnOnce() -> Vec<Class>) -> Arc<[Class]> {
    if let Some(known) = by.lock().unwrap_or_else(|e| e.into_inner()).all.get(&key) {
        return known.clone();
    }
    // not while it is locked: who makes one may ask for others
    let made: Arc<[Class]> = make().into();
    let mut by = by.lock().unwrap_or_else(|e| e.into_inner());
    if by.kept > MOST_KEPT {
        *by = By::default();
    }
    by.kept += made.len();
    by.all.insert(key, made.clone());
    made
}
