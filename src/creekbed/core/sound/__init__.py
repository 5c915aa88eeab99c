"""Sound: pitch at the limit, partials, onsets, and a synthesiser to try it all on."""
