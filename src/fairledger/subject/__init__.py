"""Opening a draft or an answer file: the one value that everything else works on."""
