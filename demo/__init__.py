"""The Saltmarsh Ferry demo: truth models, the virtual scans made from them, and the demo jobs."""
