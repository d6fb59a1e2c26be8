//! What all files see by a name is there still, and takes as many values, where one of them uses it.

use super::file::File;
use super::{Opinion, object};
use crate::index::{Entity, Project, globals};
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
            // what was edited there is looked at for itself
            let edited = |o: &Source, n| files.iter().any(|f| f.old.path == o.path && f.edited(o.tree.span(n)));
            let known = |o: &Source, n| match project.entity(o, o.str(n)) {
                Entity::Member(f, _) => Some(f) != project.index(&old.path),
                _ => false,
            };
            let told = |o: &Source, n| old.lang.shares_by_loading() && (edited(o, n) || known(o, n));
            let mut all = globals::elsewhere(project, old, b, &binding.name).into_iter();
            if let Some((o, n)) = all.find(|(o, n)| !told(o, *n)) {
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
