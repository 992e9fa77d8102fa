"""`python -m anabasis` is `anabasis`."""

from anabasis.cli import main

if __name__ == "__main__":
    main()
