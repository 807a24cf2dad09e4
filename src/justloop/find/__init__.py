"""Find circuits: one switches breakers off, one looks what went dead."""
