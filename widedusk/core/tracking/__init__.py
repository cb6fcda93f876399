"""How far stars move on the sensor while a sub is open."""
