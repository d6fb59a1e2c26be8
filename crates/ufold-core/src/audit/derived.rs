//! A value that the body computes from a parameter: for this site's argument it must be the literal that stood here.
//!
//! Reads the few forms `not p`, `p + n`, `p - n` and `p.upper()` and works out their value from the text.

use super::equal::Equal;
use super::{Opinion, object};
use crate::lang::values::{Derivation, Value, value};
use crate::tree::{Field, NodeId, Role};

impl Equal<'_> {
    /// Whether code in the body computes a value from a parameter in one of these forms; with the parameter.
    fn derivation(&self, b: NodeId) -> Option<(usize, NodeId, Derivation)> {
        let (h, t) = (self.c.home, &self.c.home.tree);
        let parts: Vec<NodeId> = t.children(b).collect();
        let parameter = |n: NodeId| {
            let target = h.names.at(n)?.target?;
            self.parameters.iter().position(|p| *p == target)
        };
        let number = |n: NodeId| match value(h.lang, h.str(n)) {
            Some(Value::Whole(k)) => Some(k),
            _ => None,
        };
        let (at, how) = match (t.role(b), parts.as_slice()) {
            (Role::Paren, [inner]) => return self.derivation(*inner),
            (Role::Call, [callee, arguments]) if t.is_leaf(*arguments) => {
                let member = t.child(*callee, Field::Member)?;
                let [upper, lower] = h.lang.case_members();
                let how = match h.str(member) {
                    m if m == upper => Derivation::Upper,
                    m if m == lower => Derivation::Lower,
                    _ => return None,
                };
                (t.child(*callee, Field::Object)?, how)
            }
            (_, [sign, operand]) if h.str(*sign) == h.lang.negation().trim() => (*operand, Derivation::Not),
            (_, [left, sign, right]) if h.str(*sign) == "+" => (*left, Derivation::Plus(number(*right)?)),
            (_, [left, sign, right]) if h.str(*sign) == "-" => (*left, Derivation::Plus(-number(*right)?)),
            _ => return None,
        };
        Some((parameter(at)?, at, how))
    }

    /// The same, compared with the literal that the copy has there; none when this is no such place.
    pub(super) fn derived(&self, a: NodeId, b: NodeId) -> Option<Opinion<()>> {
        let (o, s) = (self.c.old(), self.c.edited());
        let (i, at, how) = self.derivation(b).filter(|_| o.tree.role(a) == Role::Literal)?;
        self.state.borrow_mut().uses[i].push(at);
        let given = self.call.arguments.get(i).and_then(|n| value(s.lang, s.str(*n)));
        let computed = given.and_then(|v| how.apply(&v));
        let h = &self.c.home.names;
        let kept = h.binding(self.parameters[i]).writes == 1;
        let same = kept && computed.is_some() && computed == value(o.lang, o.str(a));
        Some(if same { Ok(()) } else { object(o, a, "what is computed here is not what stood here") })
    }
}
