"""The engine as native code: the scan's source written out as C, compiled once, loaded."""
