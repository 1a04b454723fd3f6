"""The web layer: thin. It carries values between the browser and the use cases."""
