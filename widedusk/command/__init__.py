"""What ./wide-dusk does. Standard library only: it runs before anything is installed."""
