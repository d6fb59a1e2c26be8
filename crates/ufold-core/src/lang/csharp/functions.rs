//! Functions as values: `Func`, `Action` and what they take and give.

/// The type of a function with these parameters and one result; none for more than the library has.
pub fn of(parameters: &[(String, String)], results: &[String]) -> Option<String> {
    let [result] = results else { return None };
    let mut types: Vec<&str> = parameters.iter().map(|(_, t)| t.as_str()).collect();
    if types.len() > 16 {
        return None;
    }
    match result.as_str() {
        "void" if types.is_empty() => Some("Action".into()),
        "void" => Some(format!("Action<{}>", types.join(", "))),
        result => {
            types.push(result);
            Some(format!("Func<{}>", types.join(", ")))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::of;

    #[test]
    fn the_type_of_a_function() {
        for (parameters, result, expected) in [
            (&[][..], "void", "Action"),
            (&["int"], "void", "Action<int>"),
            (&[], "string", "Func<string>"),
            (&["Ship", "int"], "decimal", "Func<Ship, int, decimal>"),
        ] {
            let parameters: Vec<(String, String)> = parameters.iter().map(|t| ("x".into(), t.to_string())).collect();
            assert_eq!(of(&parameters, &[result.to_string()]).as_deref(), Some(expected));
        }
        assert_eq!(of(&[], &[]), None);
    }
}
