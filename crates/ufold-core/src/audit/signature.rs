//! What a function must say of itself where the language wants it written: each parameter has the type of what each site
//! passes, the result that of what it gave, every local the type that it had, and what is thrown is declared, no more.

use super::call::Call;
use super::check::{Check, State};
use super::{Opinion, object};
use crate::change::Claim;
use crate::lang::Leaving;
use crate::names::{BindingId, ScopeId, Source};
use crate::tree::{Field, NodeId, Role};
use crate::types::{Kind, Ty};

impl Check<'_> {
    fn type_of(&self, s: &Source, node: NodeId) -> Option<String> {
        self.project.type_text(s, node)
    }

    /// The same type by its words, and with it the classes that they name.
    fn same_type(&self, a: (&Source, NodeId), b: (&Source, NodeId)) -> Option<bool> {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let (x, y) = (a.0.lang.type_of(a.0, a.1, &definitions), b.0.lang.type_of(b.0, b.1, &definitions));
        if x == y && x.is_known() {
            return Some(true);
        }
        // type parameters are others by their place
        let (x, y) = (self.type_of(a.0, a.1)?, self.type_of(b.0, b.1)?);
        Some(x == y)
    }

    pub(super) fn signature(&self, call: &Call, parameters: &[BindingId], state: &State) -> Opinion<()> {
        if !self.home.lang.needs_result_type() {
            self.words_of_types()?;
            return if self.home.lang.needs_types() { self.given_types(call, parameters) } else { Ok(()) };
        }
        self.parameter_types(call, parameters, state)?;
        self.result_type(call)?;
        self.local_types(state)?;
        let (o, h) = (self.old(), self.home);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let end = o.tree.end(self.site.last);
        let Ok(mut needed) = o.lang.declared_exceptions(o, self.site.first, end, &definitions) else {
            return object(o, self.site.first, "what this throws is not known");
        };
        let thrown = h.lang.says_it_throws(h, self.definition);
        let mut said: Vec<String> = thrown.into_iter().map(|n| h.str(n).to_string()).collect();
        needed.sort();
        said.sort();
        if needed == said {
            Ok(())
        } else {
            object(h, self.definition, "the function does not declare exactly what the copy throws")
        }
    }

    /// A word that stood for a type, in the copy's file or outside the function.
    fn was_type(&self, word: &str) -> bool {
        let (o, h) = (self.old(), self.home);
        let n = &h.tree;
        let of_type = |s: &Source, x: NodeId| {
            let place = |a: NodeId| matches!(s.tree.field(a), Field::Type | Field::ReturnType);
            place(x) || s.tree.ancestors(x).any(|a| s.tree.role(a) == Role::Type || place(a))
        };
        let own = o.tree.ids().any(|x| o.tree.is_leaf(x) && o.str(x) == word && of_type(o, x));
        own || h.lang.is_builtin(word)
            || n.ids().any(|x| {
                let elsewhere = !n.contains(self.definition, x) && n.is_leaf(x) && h.str(x) == word;
                elsewhere && of_type(h, x)
            })
    }

    /// Where types may be left out, those that are written are made of words that were types before.
    fn words_of_types(&self) -> Opinion<()> {
        let (h, n) = (self.home, &self.home.tree);
        let Some(written) = n.child(self.definition, Field::ReturnType) else { return Ok(()) };
        let named = |x: &NodeId| n.is_leaf(*x) && h.names.at(*x).is_some_and(|r| r.usage.reads());
        match n.subtree(written).filter(named).find(|x| !self.was_type(h.str(*x))) {
            Some(x) => object(h, x, format!("`{}` was no type before", h.str(x))),
            None => Ok(()),
        }
    }

    /// Each parameter takes what the call gives it, as far as that is a value of a type that is known.
    fn given_types(&self, call: &Call, parameters: &[BindingId]) -> Opinion<()> {
        let (h, s) = (self.home, self.edited());
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        for (b, argument) in parameters.iter().zip(&call.arguments) {
            let (first, name) = (h.names.binding(*b).first, &h.names.binding(*b).name);
            let asked = matches!(self.change.claim, Claim::Called { types } if types.contains_key(name));
            let takes = h.lang.type_of(h, first, &definitions);
            let given = match s.tree.role(*argument) {
                Role::Literal => s.lang.type_of_literal(s, *argument),
                _ => s.lang.type_of(s, *argument, &definitions),
            };
            let words = takes.parts().into_iter().filter_map(|t| match t.kind() {
                Kind::Named { name, only_in: None, .. } | Kind::Written(name) => Some(name),
                _ => None,
            });
            let written = h.tree.parent(first).and_then(|p| h.tree.child(p, Field::Type)).map_or("", |t| h.str(t));
            let is_new = |w: &String| h.lang.is_identifier(w) && written.contains(w.as_str()) && !self.was_type(w);
            if let Some(word) = words.into_iter().find(is_new) {
                return object(h, first, format!("`{word}` was no type before"));
            }
            // type parameters are others by their place
            let open = |t: &Ty| matches!(t.kind(), Kind::Parameter { .. } | Kind::Function { .. });
            let is_made_for_it = takes.parts().iter().any(open);
            if asked || is_made_for_it || s.tree.role(*argument) == Role::Lambda {
                continue;
            }
            let all = takes.alternatives();
            let fits = |t: &Ty| all.contains(t) || all.contains(&s.lang.general(*t));
            let same_words = || self.type_of(h, first).is_some_and(|x| Some(x) == self.type_of(s, *argument));
            let fits = takes.is_known() && given.alternatives().iter().all(fits) || same_words();
            if !fits {
                return object(s, *argument, format!("`{name}` is not for what `{}` is", s.str(*argument)));
            }
        }
        self.given_result(call)
    }

    /// A result that is said is the copy's: nothing, or what its function said, or the type of the local that it gave.
    fn given_result(&self, call: &Call) -> Opinion<()> {
        let (h, o) = (self.home, self.old());
        let Some(written) = h.tree.child(self.definition, Field::ReturnType) else { return Ok(()) };
        let text = h.str(written).trim_start_matches(':').trim();
        let function = self.function_of(o, self.site.first);
        let said = o.tree.child(function, Field::ReturnType).map(|r| o.str(r).trim_start_matches(':').trim());
        let nothing = o.lang.no_result_type();
        let fits = match call.targets.first() {
            _ if self.site.is_expression || call.leaving != Leaving::Plain && call.leaving != Leaving::Tail => true,
            _ if call.returned => said.is_none_or(|s| s == text || o.lang.awaited_type(s).as_deref() == Some(text)),
            None => !self.function.results.is_empty() || text == nothing,
            Some(_) => text != nothing,
        };
        if fits {
            Ok(())
        } else {
            object(h, self.definition, "the type of the result is not that of what the copy gives")
        }
    }

    /// A value without a type of its own, which had the parameter's in each of its places.
    fn is_nothing(&self, first: NodeId, stood: &[NodeId]) -> bool {
        let (o, h) = (self.old(), self.home);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let of = h.lang.type_of(h, first, &definitions);
        !stood.is_empty() && stood.iter().all(|n| o.lang.takes_type_of_place(o, *n, of, &definitions))
    }

    fn parameter_types(&self, call: &Call, parameters: &[BindingId], state: &State) -> Opinion<()> {
        let (h, s) = (self.home, self.edited());
        for (i, (b, argument)) in parameters.iter().zip(&call.arguments).enumerate() {
            let first = h.names.binding(*b).first;
            let written = h.tree.parent(first).and_then(|p| h.tree.child(p, Field::Type)).map_or("", |t| h.str(t));
            let fits = match s.tree.role(*argument) {
                Role::Lambda => {
                    let known = h.lang.function_member(written).is_some();
                    let imported = h.lang.imports_for_type(h, written).is_empty();
                    known && imported
                        || self.function_type(written).is_some()
                        || imported && self.is_type_of_function(i, written, state)
                }
                _ => {
                    let name = &h.names.binding(*b).name;
                    let given = matches!(self.change.claim, Claim::Called { types } if types.get(name).is_some_and(|t| t == written));
                    given
                        || self.same_type((h, first), (s, *argument)) == Some(true)
                        || self.is_nothing(first, &state.stood[i])
                }
            };
            if !fits {
                return object(s, *argument, format!("this is no `{written}`"));
            }
        }
        Ok(())
    }

    /// A function of this type takes what the body passes in each place, and gives what stood there.
    fn is_type_of_function(&self, parameter: usize, written: &str, state: &State) -> bool {
        let (h, o) = (self.home, self.old());
        let (uses, stood) = (&state.uses[parameter], &state.stood[parameter]);
        let of = |(call, old): (&NodeId, &NodeId)| {
            let list = h.tree.child(*call, Field::Arguments).map_or(Vec::new(), |a| h.tree.children(a).collect());
            let passed =
                list.into_iter().map(|a| Some((String::new(), self.type_of(h, a)?))).collect::<Option<Vec<_>>>()?;
            // what nobody takes may be of any type
            let for_effect = h.tree.parent(*call).is_some_and(|p| h.tree.role(p) == Role::ExprStmt);
            let result = if for_effect { h.lang.no_result_type().to_string() } else { self.type_of(o, *old)? };
            h.lang.function_type(&passed, &[result])
        };
        uses.len() == stood.len()
            && !uses.is_empty()
            && uses.iter().zip(stood).all(|x| of(x).as_deref() == Some(written))
    }

    /// What a function says that it gives, for one who waits where it says that.
    fn given_type<'t>(&self, s: &'t Source, function: NodeId, written: NodeId) -> std::borrow::Cow<'t, str> {
        let waits = s.tree.children(function).any(|c| s.tree.role(c) == Role::AsyncMark);
        let text = s.str(written);
        let inner = s.lang.awaited_type(text).filter(|_| waits);
        inner.map_or(text.into(), Into::into)
    }

    fn result_type(&self, call: &Call) -> Opinion<()> {
        let (h, o) = (self.home, self.old());
        let (t, written) = (&o.tree, h.tree.child(self.definition, Field::ReturnType));
        let wrong = || object(h, self.definition, "the type of the result is not that of what the copy gives");
        let Some(written) = written else { return wrong() };
        let text = &*self.given_type(h, self.definition, written);
        let is = |expected: &str| if text == expected { Ok(()) } else { wrong() };
        let same_words = |node: NodeId| self.type_of(o, node).is_some_and(|x| x == text);
        if self.site.is_expression {
            return if same_words(self.site.first) { Ok(()) } else { wrong() };
        }
        if matches!(call.leaving, Leaving::Guard | Leaving::Break | Leaving::Continue) {
            return is(h.lang.literal_type(h.lang.truth(true)).unwrap_or_default());
        }
        let function = self.function_of(o, self.site.first);
        if call.returned || call.leaving == Leaving::Value {
            let own = t.child(function, Field::ReturnType).filter(|_| t.role(function) == Role::Function);
            if let Some(own) = own {
                return is(&self.given_type(o, function, own));
            }
            let returns = (self.site.first.0..t.end(self.site.last).0)
                .map(NodeId)
                .filter(|n| t.role(*n) == Role::Return && t.callable_around(*n) == Some(function));
            let values: Vec<NodeId> = returns.filter_map(|r| t.children(r).next()).collect();
            return match values.is_empty() {
                true => is(h.lang.no_result_type()),
                false if values.iter().all(|v| same_words(*v)) => Ok(()),
                false => wrong(),
            };
        }
        if self.function.bundle.is_some() {
            return if Some(text) == self.function.bundle.as_deref() { self.types_in_bundle(call) } else { wrong() };
        }
        let Some((_, target)) = call.targets.first() else {
            return if self.function.results.is_empty() { is(h.lang.no_result_type()) } else { Ok(()) };
        };
        if call.targets.len() > 1 {
            let scope = h.names.scope_of(self.definition).unwrap_or(ScopeId(0));
            let of = |name: &String| {
                let own = self.local_named(scope, name)?;
                Some((self.type_of(h, h.names.binding(own).first)?, name.clone()))
            };
            let members: Option<Vec<(String, String)>> = self.function.results.iter().map(of).collect();
            return if members.and_then(|m| h.lang.several_type(&m)).as_deref() == Some(text) {
                Ok(())
            } else {
                wrong()
            };
        }
        let s = self.edited();
        let binding = s.names.at(*target).and_then(|r| r.target);
        let declared = binding.is_some_and(|b| self.type_of(s, s.names.binding(b).first).is_some_and(|x| x == text));
        let kept = self.declared_as_before(*target);
        if declared && kept { Ok(()) } else { wrong() }
    }

    /// A declaration at the site says what that of the copy said.
    pub(super) fn declared_as_before(&self, target: NodeId) -> bool {
        let (s, o) = (self.edited(), self.old());
        // a type may be written around its name: `int depths[]`
        let words = |s: &Source, declaration: NodeId, name: Option<NodeId>| {
            let words = s.lang.declaring_words(s, declaration)?;
            let written = s.tree.child(declaration, Field::Type).map(|w| s.str(w));
            let before = written.and_then(|w| words.strip_suffix(w));
            let whole = before.zip(name.and_then(|n| self.type_of(s, n)));
            Some(whole.map_or(words.to_string(), |(before, ty)| format!("{before}{ty}")))
        };
        let Some(here) = s.tree.ancestor(target, &[Role::Declare, Role::Block]) else { return true };
        if s.tree.role(here) != Role::Declare {
            return true;
        }
        let range = o.names.in_range(self.site.first, o.tree.end(self.site.last));
        let own = range.iter().filter(|r| r.usage.writes() && o.str(r.node) == s.str(target));
        let before: Vec<(NodeId, NodeId)> = own.filter_map(|r| Some((r.node, o.tree.parent(r.node)?))).collect();
        let new = words(s, here, Some(target));
        before.iter().any(|(name, p)| {
            let declaration = if o.tree.role(*p) == Role::Assign { o.tree.parent(*p).unwrap_or(*p) } else { *p };
            words(o, declaration, Some(*name)) == new
        })
            // declared without a value
            || o.tree.subtree(o.tree.parent(self.site.first).unwrap_or(self.site.first)).any(|d| {
                o.tree.role(d) == Role::Declare && words(o, d, None) == words(s, here, None) && d >= self.site.first
            })
    }

    /// Locals of the body have the types that they had in the copy.
    fn local_types(&self, state: &State) -> Opinion<()> {
        let (o, h) = (self.old(), self.home);
        for (x, y) in &state.forth {
            let (a, b) = (o.names.binding(*x).first, h.names.binding(*y).first);
            let named = |s: &Source, n: NodeId| s.tree.role(n) == Role::Name;
            if !named(o, a) || !named(h, b) {
                continue;
            }
            if self.same_type((o, a), (h, b)) == Some(false)
                || self.type_of(o, a).is_some() != self.type_of(h, b).is_some()
            {
                return object(h, b, format!("`{}` has another type", h.str(b)));
            }
        }
        Ok(())
    }
}
