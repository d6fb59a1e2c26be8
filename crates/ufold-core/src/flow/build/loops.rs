//! Loops, `switch`, and the jumps that leave them.

use super::super::{PointId, What};
use super::{Build, Loop, Loose};
use crate::tree::{Field, NodeId, Role};

impl Build<'_> {
    pub(super) fn leave_loop(&mut self, id: NodeId, loose: Loose) -> Loose {
        let label = self.tree.child(id, Field::Label).map(|l| self.tree.exact(l));
        let goes_on = self.tree.levels.get(&id).map_or(self.tree.role(id) == Role::Continue, |l| l.goes_on);
        let gives_value = self.tree.child(id, Field::Value).is_some();
        let fits = |l: &Loop| match label {
            Some(_) => l.label == label,
            None if gives_value => l.head.is_none() && !l.named_only,
            None => !goes_on || l.head.is_some(),
        };
        let all = &self.loops;
        let at = match self.tree.levels.get(&id) {
            Some(n) => (0..all.len()).rev().filter(|i| !all[*i].named_only).nth(n.count.saturating_sub(1)),
            None => all.iter().rposition(|l| fits(l) && (label.is_some() || !l.named_only)),
        };
        let Some(at) = at else { return vec![] };
        let finals = self.loops[at].finals;
        if let (true, Some(head)) = (goes_on, self.loops[at].head) {
            return self.jump(loose, id, head, finals);
        }
        let mut p = self.point(What::Nothing, id, loose);
        if self.finals.len() > finals {
            let after = self.point(What::Nothing, id, vec![]);
            self.jump(vec![p], id, after, finals);
            p = after;
        }
        self.loops[at].breaks.push(p);
        vec![]
    }

    pub(super) fn jump_target(&mut self, id: NodeId) -> PointId {
        if let Some(p) = self.targets.get(&id) {
            return *p;
        }
        let p = self.point(What::Nothing, id, vec![]);
        self.targets.insert(id, p);
        p
    }

    pub(super) fn labeled(&mut self, id: NodeId, loose: Loose) -> Loose {
        let label = self.tree.child(id, Field::Label).map(|l| self.tree.exact(l));
        let Some(body) = self.tree.child(id, Field::Body) else { return loose };
        self.label = label;
        if self.tree.role(body).is_loop() || self.tree.role(body) == Role::Switch {
            return self.statement(body, loose);
        }
        let label = self.label.take();
        self.loops.push(Loop { head: None, breaks: Vec::new(), label, named_only: true, finals: self.finals.len() });
        let mut out = self.statement(body, loose);
        out.extend(self.loops.pop().expect("pushed above").breaks);
        out
    }

    /// The rounds of a loop; gives its breaks.
    pub(super) fn rounds(&mut self, id: NodeId, head: PointId, loose: Loose) -> Loose {
        let (finals, label) = (self.finals.len(), self.label.take());
        self.loops.push(Loop { head: Some(head), breaks: Vec::new(), label, named_only: false, finals });
        let out = self.body(id, loose);
        self.link(&out, head);
        self.loops.pop().expect("pushed above").breaks
    }

    pub(super) fn for_loop(&mut self, id: NodeId, loose: Loose) -> Loose {
        let source = self.field(id, Field::Right, loose);
        let head = self.point(What::Effect, id, source);
        let bound = self.field(id, Field::Left, vec![head]);
        let breaks = self.rounds(id, head, bound);
        self.after_loop(id, vec![head], breaks)
    }

    pub(super) fn counted_loop(&mut self, id: NodeId, loose: Loose) -> Loose {
        let label = self.label.take();
        let begun = self.field(id, Field::Init, loose);
        let test = self.point(What::Nothing, id, begun);
        let tested = self.field(id, Field::Condition, vec![test]);
        let step = self.point(What::Nothing, id, vec![]);
        self.label = label;
        let breaks = self.rounds(id, step, tested.clone());
        let stepped = self.field(id, Field::Step, vec![step]);
        self.link(&stepped, test);
        let condition = self.tree.child(id, Field::Condition).filter(|c| self.tree.role(*c) != Role::Pass);
        let mut out = if condition.is_none_or(|c| self.holds_always(c)) { vec![] } else { tested };
        out.extend(breaks);
        out
    }

    pub(super) fn holds_always(&self, condition: NodeId) -> bool {
        self.lang.is_always_true(self.tree.text(condition, self.text))
    }

    pub(super) fn while_loop(&mut self, id: NodeId, loose: Loose) -> Loose {
        let head = self.point(What::Nothing, id, loose);
        let tested = self.field(id, Field::Condition, vec![head]);
        let breaks = self.rounds(id, head, tested.clone());
        let forever = self.tree.child(id, Field::Condition).is_some_and(|c| self.holds_always(c));
        self.after_loop(id, if forever { vec![] } else { tested }, breaks)
    }

    pub(super) fn do_while(&mut self, id: NodeId, loose: Loose) -> Loose {
        let start = self.point(What::Nothing, id, loose);
        let test = self.point(What::Nothing, id, vec![]);
        let mut breaks = self.rounds(id, test, vec![start]);
        let tested = self.field(id, Field::Condition, vec![test]);
        self.link(&tested, start);
        let forever = self
            .tree
            .child(id, Field::Condition)
            .is_some_and(|c| self.lang.goes_on_always(self.tree.text(c, self.text)));
        if !forever {
            breaks.extend(tested);
        }
        breaks
    }

    /// Tests run in order until one fits; a body runs on into the next one.
    pub(super) fn switch(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        let (finals, label) = (self.finals.len(), self.label.take());
        let mut next = self.field(id, Field::Subject, loose);
        let cases: Vec<NodeId> =
            t.subtree(id).filter(|c| t.role(*c) == Role::Case && t.ancestor(*c, &[Role::Switch]) == Some(id)).collect();
        self.loops.push(Loop { head: None, breaks: Vec::new(), label, named_only: false, finals });
        let (mut through, mut default) = (Vec::new(), None);
        for c in cases {
            let test = t.child(c, Field::Value);
            if let Some(v) = test {
                next = self.expr(v, next);
                through.extend(next.clone());
            } else {
                let d = self.point(What::Nothing, c, vec![]);
                default = Some(d);
                through.push(d);
            }
            let body: Vec<NodeId> = t.children(c).filter(|s| t.field(*s) == Field::Body).collect();
            through = self.statements(&body, through);
            // a case that does not run on into the next one
            if t.child(c, Field::Operator).is_some() {
                self.loops.last_mut().expect("pushed above").breaks.append(&mut through);
            }
        }
        let mut out = through;
        match default {
            Some(d) => self.link(&next, d),
            None => out.extend(next),
        }
        out.extend(self.loops.pop().expect("pushed above").breaks);
        out
    }

    pub(super) fn after_loop(&mut self, id: NodeId, ended: Loose, breaks: Loose) -> Loose {
        let mut out = match self.tree.child(id, Field::Alternative) {
            Some(e) => self.body(e, ended),
            None => ended,
        };
        out.extend(breaks);
        out
    }
}
