"""Words recognised in a sound, by a recogniser of English that is given the phones of any language."""
