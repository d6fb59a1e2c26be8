//! A statement of the new body that only some sites want: under the last parameter, which the others leave out or pass
//! as not holding.

use super::call::Call;
use super::check::Check;
use crate::names::BindingId;
use crate::tree::{Field, NodeId, Role};

/// The statement that depends on the last parameter.
pub(super) struct Dependent {
    pub statement: NodeId,
    pub action: NodeId,
    parameter: BindingId,
    /// It is run when the parameter holds; else it is called.
    is_flag: bool,
}

impl Check<'_> {
    /// The one statement of the body that is run when the last parameter was given, or holds.
    pub(super) fn dependent(&self, parameters: &[BindingId]) -> Option<Dependent> {
        let (h, n) = (self.home, &self.home.tree);
        let last = *parameters.last()?;
        let uses: Vec<NodeId> = h.names.references_to(last).map(|r| r.node).filter(|x| !self.declares(*x)).collect();
        let body = n.child(self.definition, Field::Body)?;
        let statement = n.children(body).find(|s| n.role(*s) == Role::If && uses.iter().any(|u| n.contains(*s, *u)))?;
        let inside = uses.iter().all(|u| n.contains(statement, *u));
        let condition = n.child(statement, Field::Condition)?;
        let condition = if n.role(condition) == Role::Paren { n.children(condition).next()? } else { condition };
        let block = n.child(statement, Field::Body)?;
        let list = if n.role(block) == Role::Block { Self::statements(h, block) } else { vec![block] };
        let [action] = list[..] else { return None };
        let is_name = |x: NodeId| h.names.at(x).is_some_and(|r| r.target == Some(last));
        let given = n.role(condition) == Role::Compare && {
            let sides: Vec<NodeId> = n.children(condition).collect();
            let words: Vec<&str> = sides[1..].iter().map(|s| h.str(*s)).collect();
            is_name(sides[0])
                && [format!("is not {}", h.lang.nothing()), format!("{} {}", h.lang.differs(), h.lang.nothing())]
                    .contains(&words.join(" "))
        };
        let fits = inside
            && (is_name(condition) || given)
            && n.child(statement, Field::Alternative).is_none()
            && n.children(statement).all(|c| n.role(c) != Role::Else)
            && h.names.binding(last).writes == 1;
        let is_flag = uses.len() == 1;
        (fits && uses.len() <= 2).then_some(Dependent { statement, action, parameter: last, is_flag })
    }

    /// The name stands in the function's own list of parameters.
    fn declares(&self, name: NodeId) -> bool {
        let n = &self.home.tree;
        n.child(self.definition, Field::Parameters).is_some_and(|p| n.contains(p, name))
    }

    /// Whether the site runs the statement; none when that can't be told.
    pub(super) fn wants(&self, d: &Dependent, call: &Call, parameters: &[BindingId]) -> Option<bool> {
        let (s, t) = (self.edited(), &self.edited().tree);
        let i = parameters.iter().position(|p| *p == d.parameter)?;
        let Some(argument) = call.arguments.get(i) else { return (!d.is_flag).then_some(false) };
        match (d.is_flag, t.role(*argument)) {
            (true, Role::Literal) if s.str(*argument) == s.lang.truth(true) => Some(true),
            (true, Role::Literal) if s.str(*argument) == s.lang.truth(false) => Some(false),
            (false, Role::Lambda) => Some(true),
            _ => None,
        }
    }
}
