"""PDF pages: the session sheet, the call sheet, a proof, an audit."""
