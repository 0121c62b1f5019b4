from rezept.cli import main

main()
