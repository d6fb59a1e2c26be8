//! What all files see by a name is there still, and takes as many values, where one of them uses it.

use super::file::File;
use super::{Opinion, object};
use crate::index::{Project, globals};
use crate::names::{BindingId, Names, Source};
use crate::tree::{Field, Role};

pub(super) fn stay(project: &Project, files: &[File]) -> Opinion<()> {
    for f in files {
        let (old, new) = (&f.old, &f.new);
        for (i, binding) in old.names.bindings.iter().enumerate().filter(|(_, b)| b.scope == Names::MODULE) {
            let b = BindingId(i as u32);
            let now = new.names.in_module(&binding.name).filter(|n| new.lang.is_global(new, *n));
            if !old.lang.is_global(old, b) || now.is_some_and(|n| parameters(new, n) == parameters(old, b)) {
                continue;
            }
            if let Some((o, n)) = globals::elsewhere(project, old, b, &binding.name) {
                return object(&o, n, format!("`{}` is used here, and another thing now", binding.name));
            }
        }
    }
    Ok(())
}

fn parameters(s: &Source, b: BindingId) -> Option<usize> {
    let t = &s.tree;
    let function = t.parent(s.names.binding(b).first).filter(|f| t.role(*f) == Role::Function)?;
    Some(t.child(function, Field::Parameters).map_or(0, |l| t.children(l).count()))
}
