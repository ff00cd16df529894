"""How it is computed: formulas, sources and worked examples."""
