"""Small simulated outside services, which ship with the application and speak the same protocols as real ones would."""
