"""A chain compiled to one circuit, solved, and judged: levels, response, DC, findings, remedies."""
