"""The web layer: thin. It carries values between the browser and the core, the store and the sender."""
