"""The signal graph of a show, solved: what arrives where, when, how loud, and with which picture."""
