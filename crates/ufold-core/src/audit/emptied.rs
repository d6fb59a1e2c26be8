//! Files that go: nothing but comments is left in them, and no file of the project speaks of them.

use super::file::File;
use super::{Opinion, object};
use crate::change::FileEdits;
use crate::index::Project;
use crate::index::words::stem_of;
use crate::tree::{Role, Tree};

pub(super) fn check(project: &Project, edits: &[FileEdits], files: &[File]) -> Opinion<()> {
    for f in edits.iter().filter(|f| f.goes) {
        let Some(own) = files.iter().find(|o| o.old.path == f.file) else { continue };
        let left = own.new.tree.children(Tree::ROOT).find(|c| own.new.tree.role(*c) != Role::Doc);
        if let Some(n) = left {
            return object(&own.new, n, "code would go with its file");
        }
        let o = &own.old;
        let Some(index) = project.index(&f.file) else { return object(o, Tree::ROOT, "not a file of the project") };
        if o.module.as_ref().is_none_or(|m| m.is_package) {
            return object(o, Tree::ROOT, "the file stands for its package");
        }
        if o.lang.folder_listers().iter().any(|w| project.facts.iter().any(|x| x.has_word(w))) {
            return object(o, Tree::ROOT, "the files of a folder are listed somewhere");
        }
        let stem = stem_of(&f.file);
        for other in (0..project.facts.len()).filter(|i| *i != index) {
            let after = files.iter().find(|o| o.old.path == project.facts[other].path).map(|o| o.new.clone());
            if after.is_none() && !project.facts[other].has_word(stem) && !project.imports(other, index) {
                continue;
            }
            if after.is_none() && project.imports(other, index) {
                return object(o, Tree::ROOT, "a file still imports the one that goes");
            }
            let Some(after) = after.or_else(|| project.source(other).ok()) else {
                return object(o, Tree::ROOT, "a file that may need it can't be read");
            };
            let t = &after.tree;
            let names = |n: &crate::tree::NodeId| {
                t.is_leaf(*n) && after.str(*n).trim_matches(['"', '\'', '`']).split(['.', '/']).any(|w| w == stem)
            };
            if let Some(n) = t.ids().find(names) {
                return object(&after, n, "this speaks of the file that goes");
            }
        }
    }
    Ok(())
}
